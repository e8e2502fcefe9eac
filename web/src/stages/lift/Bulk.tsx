/** One change over the values of all items of a kind: written, looked at with befores and afters, made, taken back. */
import { Button, MenuItem, TextField } from "@mui/material";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { BUSY, off } from "../../shell/off";
import { count, many } from "../../shell/state";
import { Told } from "../../shores/Told";
import type { Kind } from "./Fields";
import { Looked } from "./Looked";
import { useBulk, useTriedBulk } from "./queries";
import { Spellings } from "./Spellings";

type Change = Schemas["Bulk"];
const ACTS: [Change["act"], string][] = [
  ["copy", "copy a field to another"],
  ["move", "move a field to another"],
  ["fill", "fill what is empty"],
  ["replace", "find and replace"],
  ["reshape", "reshape by treatments"],
  ["map", "gather near-equal spellings"],
];
const WHOLE = ["blocks", "group"]; // stand on the page itself, and are not changed as values

const blank = (field: string): Change => ({
  act: "copy",
  field,
  to: null,
  empty: true,
  find: "",
  text: "",
  pattern: false,
  treat: [],
  table: {},
});

/** Whether a change says enough to be looked at. */
const says = (c: Change) =>
  !!{
    copy: c.to,
    move: c.to,
    fill: c.text?.trim(),
    replace: c.find,
    reshape: c.treat?.length,
    map: Object.keys(c.table ?? {}).length,
  }[c.act];

interface Props {
  kind: Kind | undefined;
  name: string;
  items: number;
  onClose: () => void;
}

export function Bulk({ kind, name, items, onClose }: Props) {
  const fields = (kind?.fields ?? []).filter((f) => !WHOLE.includes(f.type));
  const [change, setChange] = useState(() => blank(fields[0]?.name ?? ""));
  const [lines, setLines] = useState("");
  const [search, setSearch] = useState("");
  const wanted = {
    ...change,
    treat: (change.act === "reshape"
      ? lines.split("\n").filter((line) => line.trim())
      : []) as unknown as Change["treat"],
  };
  const set = (part: Partial<Change>) => setChange({ ...change, ...part });
  const tried = useTriedBulk(says(wanted) ? { kind: name, change: wanted, search } : null);
  const made = useBulk(() => setChange(blank(change.field)));
  const to = change.act === "copy" || change.act === "move";
  return (
    <section className="shore new" style={{ flex: 1 }} aria-label="Change many">
      <h2>
        Change many <small>{many(items, "item")}</small>
        <span className="sp" />
        <button className="linkish" onClick={onClose}>
          to the fields <kbd>B</kbd>
        </button>
      </h2>
      <form
        className="form scroll"
        aria-label="Change over many items"
        onSubmit={(e) => {
          e.preventDefault();
          made.mutate({ kind: name, change: wanted, search });
        }}
      >
        <div className="two">
          <TextField
            select
            label="What"
            value={change.act}
            onChange={(e) => set({ act: e.target.value as Change["act"] })}
          >
            {ACTS.map(([act, label]) => (
              <MenuItem key={act} value={act}>
                {label}
              </MenuItem>
            ))}
          </TextField>
          <FieldChoice
            label="Field"
            value={change.field}
            fields={fields}
            onSet={(field) => set({ field, table: {} })}
          />
        </div>
        {to && (
          <div className="two">
            <FieldChoice
              label="To"
              value={change.to ?? ""}
              fields={fields.filter((f) => f.name !== change.field)}
              onSet={(field) => set({ to: field })}
            />
            <label className="check">
              <input type="checkbox" checked={!!change.empty} onChange={(e) => set({ empty: e.target.checked })} /> only
              where that is empty
            </label>
          </div>
        )}
        {change.act === "replace" && (
          <>
            <TextField label="Find" value={change.find} onChange={(e) => set({ find: e.target.value })} />
            <label className="check">
              <input type="checkbox" checked={!!change.pattern} onChange={(e) => set({ pattern: e.target.checked })} />{" "}
              it is a pattern (RE2)
            </label>
          </>
        )}
        {(change.act === "replace" || change.act === "fill") && (
          <TextField
            label={change.act === "fill" ? "Fill with" : "Replace by"}
            value={change.text}
            onChange={(e) => set({ text: e.target.value })}
          />
        )}
        {change.act === "reshape" && (
          <TextField
            label="Treatments, one a line"
            placeholder={"trim\ndate: %d.%m.%Y"}
            multiline
            minRows={2}
            value={lines}
            onChange={(e) => setLines(e.target.value)}
          />
        )}
        {change.act === "map" && (
          <Spellings
            key={`${name} ${change.field}`}
            kind={name}
            field={change.field}
            table={change.table ?? {}}
            onSet={(table) => set({ table })}
          />
        )}
        <TextField
          label="Only items whose address or title holds"
          value={search}
          onChange={(e) => setSearch(e.target.value)}
        />
        <Told error={tried.error ?? made.error} />
        {tried.data && <Looked found={tried.data} />}
        <div className="acts">
          <Button
            type="submit"
            variant="contained"
            {...off(
              [!says(wanted), "Say what is to change first."],
              [!tried.data || tried.isPlaceholderData, "It is being looked at."],
              [!tried.data?.changed, "It would alter no value."],
              [made.isPending, BUSY],
            )}
          >
            Change {count(tried.data?.changed ?? 0)}
          </Button>
        </div>
        {made.data && <p role="status">{made.data.text}. Z takes it back.</p>}
      </form>
    </section>
  );
}

interface ChoiceProps {
  label: string;
  value: string;
  fields: NonNullable<Kind["fields"]>;
  onSet: (field: string) => void;
}

function FieldChoice({ label, value, fields, onSet }: ChoiceProps) {
  return (
    <TextField select label={label} value={value} onChange={(e) => onSet(e.target.value)}>
      {fields.map((f) => (
        <MenuItem key={f.name} value={f.name}>
          {f.name}
        </MenuItem>
      ))}
    </TextField>
  );
}
