/** Parts of the form of a field: one way of reading it, and the values it has on some pages. */
import { MenuItem, TextField } from "@mui/material";
import type { Schemas } from "../../api/client";
import { locator as only, shown, WAYS, type Locator } from "./field";

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
            <b>{shown(t.value)}</b>
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
