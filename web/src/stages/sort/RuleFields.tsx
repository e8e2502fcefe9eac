/** One rule of a kind: all that is given must hold, and nothing of what is said not to. */
import { MenuItem, TextField } from "@mui/material";
import type { ReactNode } from "react";
import { CONDITIONS, EMPTY_UNLESS, type Conditions as Asked, type Part, type Rule } from "./kind";

interface Props {
  rule: Rule;
  first: boolean;
  onSet: (rule: Rule) => void;
  onDrop?: () => void;
}

export function RuleFields({ rule, first, onSet, onDrop }: Props) {
  const unless = rule.unless ?? [];
  return (
    <Box legend={first ? "A page is of this kind when all of this holds" : "or when all of this holds"}>
      <Conditions rule={rule} always={4} onSet={(made) => onSet({ ...rule, ...made })} />
      {unless.map((one, n) => (
        <Box key={n} legend="but not when all of this holds">
          <Conditions
            rule={one}
            always={0}
            onSet={(made) => onSet({ ...rule, unless: unless.map((u, m) => (m === n ? made : u)) })}
          />
          <button
            type="button"
            className="linkish"
            style={{ alignSelf: "start" }}
            onClick={() => onSet({ ...rule, unless: unless.filter((_, m) => m !== n) })}
          >
            take it out
          </button>
        </Box>
      ))}
      <div className="acts">
        <button type="button" className="linkish" onClick={() => onSet({ ...rule, unless: [...unless, EMPTY_UNLESS] })}>
          + but not when
        </button>
        {onDrop && (
          <button type="button" className="linkish" onClick={onDrop}>
            take this rule out
          </button>
        )}
      </div>
    </Box>
  );
}

function Box({ legend, children }: { legend: string; children: ReactNode }) {
  return (
    <fieldset className="rulebox">
      <legend>{legend}</legend>
      {children}
    </fieldset>
  );
}

/** The conditions that are set, the first of them ``always``, and a choice of the others. */
function Conditions({ rule, always, onSet }: { rule: Asked; always: number; onSet: (rule: Asked) => void }) {
  const shown = CONDITIONS.filter(([part], n) => n < always || rule[part] != null);
  const others = CONDITIONS.filter((one) => !shown.includes(one)).filter(
    ([part]) => (part !== "says" && part !== "attribute") || rule.element,
  );
  return (
    <>
      {shown.map(([part, label, example]) => (
        <TextField
          key={part}
          label={label}
          placeholder={example}
          value={rule[part] ?? ""}
          onChange={(e) => onSet({ ...rule, [part]: e.target.value })}
        />
      ))}
      {rule.make && (
        <div className="acts">
          <span>made as {rule.make.name}</span>
          <button type="button" className="linkish" onClick={() => onSet({ ...rule, make: null })}>
            take it out
          </button>
        </div>
      )}
      {others.length > 0 && (
        <TextField
          select
          label="and also"
          value=""
          onChange={(e) => onSet({ ...rule, [e.target.value as Part]: "" })}
          slotProps={{ select: { displayEmpty: false } }}
        >
          {others.map(([part, label]) => (
            <MenuItem key={part} value={part}>
              {label}
            </MenuItem>
          ))}
        </TextField>
      )}
    </>
  );
}
