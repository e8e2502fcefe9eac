/** The parts that each member of a group has: named, typed, found in the member or after it, taken out. */
import { Checkbox, FormControlLabel, MenuItem, TextField } from "@mui/material";
import { off } from "../../shell/off";
import type { Schemas } from "../../api/client";

type Part = Schemas["PartPlan"];

/** A part of a group in a group, which is no group itself. */
const inner = ({ name, type, css, attribute, treat, follows }: Part): Schemas["InnerPart"] => ({
  name,
  type: type === "group" ? "line" : type,
  css,
  attribute,
  treat,
  follows,
});
const SORTS: [Part["type"], string][] = [
  ["line", "text"],
  ["passage", "text of several lines"],
  ["blocks", "blocks (HTML)"],
  ["number", "number"],
  ["date", "date"],
  ["link", "link"],
  ["picture", "picture"],
  ["group", "a group in the group"],
];
const FRESH: Part = { name: "", type: "line", css: "", attribute: null, treat: [], follows: false, parts: [] };
const ELEMENTS = ["passage", "blocks", "group"]; // types that no attribute gives
const WHOLE = ["passage", "blocks"]; // types that without a selector take what no other part takes

interface Props {
  parts: Part[];
  within?: string; // the part whose members these are of
  onSet: (parts: Part[]) => void;
}

export function Parts({ parts, within, onSet }: Props) {
  const set = (n: number, part: Partial<Part>) => onSet(parts.map((p, m) => (m === n ? { ...p, ...part } : p)));
  const retype = (n: number, type: Part["type"]) => {
    const attribute =
      type === "link" ? (parts[n]?.attribute ?? "href") : ELEMENTS.includes(type) ? null : parts[n]?.attribute;
    set(n, { type, attribute, parts: type === "group" ? (parts[n]?.parts ?? []) : [] });
  };
  return (
    <fieldset className="rulebox" aria-label={within ? `Parts of ${within}` : "Parts of each member"}>
      <legend>{within ? `each of ${within} has` : "each member has"}</legend>
      {parts.map((part, n) => (
        <div key={n} className="partbox">
          <div className="partline">
            <TextField
              label="part"
              value={part.name}
              onChange={(e) => set(n, { name: e.target.value.toLowerCase().replace(/[^a-z0-9_]/g, "_") })}
            />
            <TextField select label="as" value={part.type} onChange={(e) => retype(n, e.target.value as Part["type"])}>
              {SORTS.filter(([type]) => !within || type !== "group").map(([type, label]) => (
                <MenuItem key={type} value={type}>
                  {label}
                </MenuItem>
              ))}
            </TextField>
            <button
              type="button"
              className="linkish"
              aria-label={`take the part ${part.name} out`}
              onClick={() => onSet(parts.filter((_, m) => m !== n))}
            >
              ×
            </button>
            <TextField
              label={part.type === "group" ? "its members (CSS)" : "found by (CSS)"}
              placeholder={
                part.follows
                  ? "all that comes after it"
                  : WHOLE.includes(part.type)
                    ? "what no other part takes"
                    : "the member itself"
              }
              value={part.css ?? ""}
              onChange={(e) => set(n, { css: e.target.value })}
              slotProps={{ htmlInput: { className: "mono", spellCheck: false } }}
            />
            <TextField
              label="attribute"
              placeholder="its text"
              value={part.attribute ?? ""}
              {...off([ELEMENTS.includes(part.type), "It is read from elements, not from what an attribute says."])}
              onChange={(e) => set(n, { attribute: e.target.value || null })}
              slotProps={{ htmlInput: { className: "mono", spellCheck: false } }}
            />
          </div>
          <FormControlLabel
            className="after"
            control={
              <Checkbox
                size="small"
                checked={part.follows ?? false}
                onChange={(e) => set(n, { follows: e.target.checked })}
              />
            }
            label="stands after the member, before the next one"
          />
          {part.type === "group" && (
            <Parts
              parts={(part.parts ?? []) as Part[]}
              within={part.name || "it"}
              onSet={(made) => set(n, { parts: made.map(inner) })}
            />
          )}
        </div>
      ))}
      <button type="button" className="linkish" style={{ alignSelf: "start" }} onClick={() => onSet([...parts, FRESH])}>
        + part
      </button>
    </fieldset>
  );
}
