/** A kind while it is written: its name, its new address, its rules, and what they catch. */
import { Button, MenuItem, TextField } from "@mui/material";
import { useState } from "react";
import { useChangePlan } from "../../shell/state";
import { allSaved, useUnsaved } from "../../shell/unsaved";
import { keep } from "../../shores/Proposed";
import { Told } from "../../shores/Told";
import { clear, EMPTY_RULE, nameOf, START_FIELDS, type Kind, type Rule } from "./kind";
import { Languages } from "./Languages";
import { LiveCount } from "./LiveCount";
import { NewAddress } from "./NewAddress";
import { RuleFields } from "./RuleFields";
import { BUSY, off } from "../../shell/off";

const ITEMS: [NonNullable<Kind["items"]>, string][] = [
  ["one", "one of each page"],
  ["each", "one of each section of a page"],
  ["none", "none (lists the new system builds itself)"],
];

export function KindEditor({
  kind,
  index,
  onDone,
}: {
  kind: Kind;
  index: number;
  onDone: (name: string | null) => void;
}) {
  const [draft, setDraft] = useState(kind);
  const save = useChangePlan();
  const fresh = index < 0;
  const dirty = JSON.stringify(draft) !== JSON.stringify(kind);
  useUnsaved("kind", dirty && !save.isSuccess ? `the kind ${draft.label || draft.name || "(new)"}` : "", "kind");
  const setRule = (n: number, made: Rule) =>
    setDraft({ ...draft, rules: draft.rules.map((r, m) => (m === n ? made : r)) });
  const submit = () =>
    save.mutate(
      {
        text: fresh ? `kind ${draft.label} made` : `kind ${draft.label || draft.name} changed`,
        change: (plan) => {
          const made: Kind = {
            ...draft,
            name: draft.name || nameOf(draft.label ?? ""),
            rules: draft.rules.map(clear),
            address: draft.address || null,
            slugs: { ...draft.slugs, without: draft.slugs.without.filter(Boolean) },
          };
          const kinds = (plan.kinds ??= []);
          if (fresh) kinds.push({ ...made, fields: made.fields?.length ? made.fields : START_FIELDS });
          else kinds[index] = made;
        },
      },
      { onSuccess: () => (allSaved(), onDone(draft.name || nameOf(draft.label ?? ""))) },
    );
  const remove = () =>
    save.mutate(
      { text: `kind ${draft.label || draft.name} removed`, change: (plan) => plan.kinds?.splice(index, 1) },
      { onSuccess: () => (allSaved(), onDone(null)) },
    );
  const move = (by: number) =>
    save.mutate({
      text: `kind ${draft.label || draft.name} moved ${by < 0 ? "up" : "down"}`,
      change: (plan) => {
        const kinds = plan.kinds ?? [];
        const [taken] = kinds.splice(index, 1);
        if (taken) kinds.splice(Math.max(0, index + by), 0, taken);
      },
    });
  return (
    <form
      className="form scroll"
      aria-label="Kind"
      onSubmit={(e) => {
        e.preventDefault();
        submit();
      }}
    >
      <div className="two">
        <TextField
          label="Name of the kind"
          value={draft.label ?? ""}
          autoFocus={fresh}
          onChange={(e) => setDraft({ ...draft, label: e.target.value })}
        />
        <TextField
          label="New address"
          placeholder="/news/{slug}"
          title="Parts: {slug}; {path}, {folder} as the page had them; {menu}, the entries above it in the old site’s menus; any field, {published:%Y} for a part of a date"
          value={draft.address ?? ""}
          {...off([draft.items === "none", "A kind that makes no items has none."])}
          onChange={(e) => setDraft({ ...draft, address: e.target.value })}
        />
      </div>
      <NewAddress kind={draft} onSet={(slugs) => setDraft({ ...draft, slugs })} />
      {draft.rules.map((rule, n) => (
        <RuleFields
          key={n}
          rule={rule}
          first={n === 0}
          onSet={(made) => setRule(n, made)}
          onDrop={
            draft.rules.length > 1
              ? () => setDraft({ ...draft, rules: draft.rules.filter((_, m) => m !== n) })
              : undefined
          }
        />
      ))}
      <div className="acts">
        <button
          type="button"
          className="linkish"
          onClick={() => setDraft({ ...draft, rules: [...draft.rules, EMPTY_RULE] })}
        >
          + another rule
        </button>
      </div>
      <div className="two">
        <TextField
          select
          label="Items"
          value={draft.items ?? "one"}
          onChange={(e) => {
            const items = e.target.value as Kind["items"];
            setDraft({ ...draft, items, ...(items === "each" ? {} : { each: "", leads: false }) });
          }}
        >
          {ITEMS.map(([value, label]) => (
            <MenuItem key={value} value={value}>
              {label}
            </MenuItem>
          ))}
        </TextField>
        {draft.items === "each" && (
          <TextField
            label="The sections (CSS selector)"
            placeholder="#content > h2"
            value={draft.each ?? ""}
            onChange={(e) => setDraft({ ...draft, each: e.target.value })}
            slotProps={{ htmlInput: { className: "mono", spellCheck: false } }}
          />
        )}
      </div>
      {draft.items === "each" && (
        <label className="check">
          <input
            type="checkbox"
            checked={draft.leads ?? false}
            onChange={(e) => setDraft({ ...draft, leads: e.target.checked })}
          />{" "}
          it is a heading: what comes after it, up to the next one, is the section. A field read by{" "}
          <span className="mono">:scope</span> has all of it.
        </label>
      )}
      <Languages chosen={draft.languages ?? []} onSet={(languages) => setDraft({ ...draft, languages })} />
      <LiveCount
        rules={draft.rules}
        own={[kind.name, ...(kind.languages ?? []).map((language) => `${kind.name}_${language}`)]}
      />
      <Told error={save.error} />
      <div className="acts">
        <Button
          type="submit"
          variant="contained"
          {...off(
            [!(draft.label || draft.name), "Give it a name first."],
            [draft.items === "each" && !draft.each, "Say first which sections of a page are items."],
            [!dirty && !fresh, "Nothing is changed."],
            [save.isPending, BUSY],
          )}
        >
          {fresh ? "Make this kind" : "Save"}
        </Button>
        {!fresh && (
          <>
            <Button
              type="button"
              variant="outlined"
              onClick={() => move(-1)}
              {...off([index === 0, "It is the first."], [dirty, "Keep or undo the change first."])}
              title="The first kind whose rule holds has the page"
            >
              Move up
            </Button>
            <Button
              type="button"
              variant="outlined"
              onClick={() => move(1)}
              {...off([dirty, "Keep or undo the change first."])}
            >
              Move down
            </Button>
            {(kind.proposed || kind.fields?.some((field) => field.proposed)) && (
              <Button
                type="button"
                variant="outlined"
                onClick={() =>
                  save.mutate({
                    text: `yes to the kind ${kind.label || kind.name} as proposed`,
                    change: (plan) => keep(plan, kind.name),
                  })
                }
                {...off([dirty, "Save the change first: what is changed is yours."], [save.isPending, BUSY])}
                title="The kind and its fields are as they should be"
              >
                Yes to it
              </Button>
            )}
            <Button type="button" onClick={remove}>
              Remove
            </Button>
          </>
        )}
        {fresh && (
          <Button type="button" onClick={() => (allSaved(), onDone(null))}>
            Leave it
          </Button>
        )}
      </div>
    </form>
  );
}
