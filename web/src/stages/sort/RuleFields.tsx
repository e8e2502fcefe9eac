/** One rule of a kind: all that is given must hold. */
import { TextField } from "@mui/material";
import type { Rule } from "./kind";

interface Props {
  rule: Rule;
  first: boolean;
  onSet: (part: keyof Rule, value: string) => void;
  onDrop?: () => void;
}

export function RuleFields({ rule, first, onSet, onDrop }: Props) {
  return (
    <fieldset
      style={{
        border: "1px solid var(--line)",
        borderRadius: 6,
        padding: "8px 10px",
        display: "flex",
        flexDirection: "column",
        gap: 8,
        margin: 0,
      }}
    >
      <legend style={{ fontSize: 12.5, color: "var(--soft)" }}>
        {first ? "A page is of this kind when all of this holds" : "or when all of this holds"}
      </legend>
      <TextField
        label="its path lies below"
        placeholder="/news/"
        value={rule.below ?? ""}
        onChange={(e) => onSet("below", e.target.value)}
      />
      <TextField
        label="its whole address fits (RE2 pattern)"
        placeholder="/engines\.aspx\?id=\d+"
        value={rule.address ?? ""}
        onChange={(e) => onSet("address", e.target.value)}
      />
      <TextField
        label="it holds an element (CSS selector)"
        placeholder="table.data"
        value={rule.element ?? ""}
        onChange={(e) => onSet("element", e.target.value)}
      />
      <TextField
        label="it is in a language"
        placeholder="de"
        value={rule.language ?? ""}
        onChange={(e) => onSet("language", e.target.value)}
      />
      {onDrop && (
        <button type="button" className="linkish" style={{ alignSelf: "start" }} onClick={onDrop}>
          take this rule out
        </button>
      )}
    </fieldset>
  );
}
