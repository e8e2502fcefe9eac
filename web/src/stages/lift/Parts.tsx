/** The parts that each member of a group has: named, typed, found in the member, taken out. */
import { MenuItem, TextField } from "@mui/material";
import type { Schemas } from "../../api/client";

type Part = Schemas["PartPlan"];
const SORTS: [Part["type"], string][] = [
  ["line", "text"],
  ["number", "number"],
  ["date", "date"],
  ["link", "link"],
  ["picture", "picture"],
];
const FRESH: Part = { name: "", type: "line", css: "", attribute: null, treat: [] };

interface Props {
  parts: Part[];
  onSet: (parts: Part[]) => void;
}

export function Parts({ parts, onSet }: Props) {
  const set = (n: number, part: Partial<Part>) => onSet(parts.map((p, m) => (m === n ? { ...p, ...part } : p)));
  return (
    <fieldset className="rulebox" aria-label="Parts of each member">
      <legend>each member has</legend>
      {parts.map((part, n) => (
        <div key={n} className="partline">
          <TextField
            label="part"
            value={part.name}
            onChange={(e) => set(n, { name: e.target.value.toLowerCase().replace(/[^a-z0-9_]/g, "_") })}
          />
          <TextField
            select
            label="as"
            value={part.type}
            onChange={(e) => {
              const type = e.target.value as Part["type"];
              set(n, { type, attribute: type === "link" ? (part.attribute ?? "href") : part.attribute });
            }}
          >
            {SORTS.map(([type, label]) => (
              <MenuItem key={type} value={type}>
                {label}
              </MenuItem>
            ))}
          </TextField>
          <TextField
            label="found in it by (CSS)"
            placeholder="the member itself"
            value={part.css ?? ""}
            onChange={(e) => set(n, { css: e.target.value })}
            slotProps={{ htmlInput: { className: "mono", spellCheck: false } }}
          />
          <TextField
            label="attribute"
            placeholder="its text"
            value={part.attribute ?? ""}
            onChange={(e) => set(n, { attribute: e.target.value || null })}
            slotProps={{ htmlInput: { className: "mono", spellCheck: false } }}
          />
          <button
            type="button"
            className="linkish"
            aria-label={`take the part ${part.name} out`}
            onClick={() => onSet(parts.filter((_, m) => m !== n))}
          >
            ×
          </button>
        </div>
      ))}
      <button type="button" className="linkish" style={{ alignSelf: "start" }} onClick={() => onSet([...parts, FRESH])}>
        + part
      </button>
    </fieldset>
  );
}
