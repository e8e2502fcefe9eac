/** Parts of the form of a field: one way of reading it, and the values it has on some pages. */
import { MenuItem, TextField } from "@mui/material";
import type { Schemas } from "../../api/client";
import { count, many, useLink } from "../../shell/state";
import { Addr } from "../../shores/Addr";
import type { Covered } from "./queries";
import { Value } from "./Value";
import { locator as only, shown, TYPES, WAYS, type Field, type Locator } from "./field";

interface LineProps {
  locator: Locator;
  first: boolean;
  onSet: (locator: Locator) => void;
  onDrop?: () => void;
}

export function LocatorLine({ locator, first, onSet, onDrop }: LineProps) {
  const way = WAYS.find(([name]) => locator[name] != null)?.[0] ?? "css";
  return (
    <div style={{ display: "flex", gap: 6, alignItems: "center" }}>
      <TextField
        select
        label={first ? "read by" : "or"}
        value={way}
        sx={{ maxWidth: 138 }}
        onChange={(e) => onSet(only(e.target.value as keyof Locator, locator[way] ?? ""))}
      >
        {WAYS.map(([value, label]) => (
          <MenuItem key={value} value={value}>
            {label}
          </MenuItem>
        ))}
      </TextField>
      <TextField
        label="what"
        className="mono"
        value={locator[way] ?? ""}
        onChange={(e) => onSet({ ...locator, [way]: e.target.value })}
        slotProps={{ htmlInput: { className: "mono", spellCheck: false } }}
      />
      {onDrop && (
        <button type="button" className="linkish" aria-label="take this one out" onClick={onDrop}>
          ×
        </button>
      )}
    </div>
  );
}

/** What was read, and that after each treatment. */
function Steps({ values, lines }: { values: unknown[]; lines: string[] }) {
  if (!values.length || !lines.length) return null;
  return (
    <ol className="steps soft" aria-label="Value after each treatment">
      {[["as it is read"], ...lines.map((l) => [l])].map(([line], n) => (
        <li key={n}>
          <span>{line}</span>{" "}
          <b className="mono">{n < values.length ? shown(values[n]) || "(nothing)" : "cannot be"}</b>
        </li>
      ))}
    </ol>
  );
}

interface TriedProps {
  rows: Schemas["TriedRow"][];
  named: boolean;
  lines: string[]; // the treatments
}

export function TriedValues({ rows, named, lines }: TriedProps) {
  return (
    <div role="status" data-testid="tried">
      {rows.map((t) => (
        <div key={t.address} className="value">
          {named && <div className="mono soft">{t.key}</div>}
          {!named && <Steps values={t.steps} lines={lines} />}
          {t.value !== null && t.value !== undefined ? (
            <b>
              <Value value={t.value} />
            </b>
          ) : (
            <span className="state empty">nothing found</span>
          )}{" "}
          {t.state !== "filled" && (
            <span className={`state ${t.state}`}>
              {t.state === "empty" ? "" : t.state} {t.note}
            </span>
          )}
        </div>
      ))}
    </div>
  );
}

const STATES: [string, string][] = [
  ["many", "more than one place"],
  ["odd", "odd"],
  ["empty", "empty"],
];

/** On how many pages of the kind the field as it stands is filled, and the first on which it is not. */
export function CoveredPages({ covered }: { covered: Covered | null }) {
  const link = useLink();
  if (!covered?.of) return null;
  const others = STATES.filter(([state]) => covered.states[state]);
  return (
    <div role="status" data-testid="covered">
      <div>
        filled on <b>{count(covered.states.filled ?? 0)}</b> of {many(covered.looked, "page")}
        {others.map(([state, says]) => `, ${says} on ${count(covered.states[state])}`).join("")}
        {covered.looked < covered.of ? ` · looking, ${count(covered.of)} in all` : ""}
      </div>
      {covered.fails.map((f) => (
        <div key={f.address} className="fails">
          <button type="button" className="linkish" onClick={() => link.set({ page: f.address })}>
            <Addr of={f.key} />
          </button>{" "}
          <span className={`state ${f.state}`}>
            {f.state === "empty" ? "nothing found" : f.note || "more than one place"}
          </span>
        </div>
      ))}
    </div>
  );
}

interface NameProps {
  draft: Field;
  fresh: boolean;
  onChange: (draft: Field) => void;
}

/** What a field is called, its type, and what a type needs besides. */
export function FieldName({ draft, fresh, onChange: setDraft }: NameProps) {
  return (
    <>
      <div className="two" style={{ display: "flex", gap: 8 }}>
        <TextField
          label="Field"
          value={draft.name}
          autoFocus={fresh}
          onChange={(e) => setDraft({ ...draft, name: e.target.value.toLowerCase().replace(/[^a-z0-9_]/g, "_") })}
        />
        <TextField
          label="Type"
          select
          value={draft.type}
          onChange={(e) => setDraft({ ...draft, type: e.target.value as Field["type"] })}
        >
          {TYPES.map(([value, label]) => (
            <MenuItem key={value} value={value}>
              {label}
            </MenuItem>
          ))}
        </TextField>
      </div>
      {draft.type === "choice" && (
        <TextField
          label="Choices, one after the other with commas"
          value={draft.choices?.join(", ") ?? ""}
          onChange={(e) => setDraft({ ...draft, choices: e.target.value.split(",").map((c) => c.trim()) })}
        />
      )}
    </>
  );
}
