/** One field: its type, how it is read, its treatments; its values on a few pages as it is written. */
import { Button, TextField } from "@mui/material";
import { useCallback, useEffect, useRef, useState } from "react";
import { Problem, type Schemas } from "../../api/client";
import { useChangePlan } from "../../shell/state";
import { allSaved, useUnsaved } from "../../shell/unsaved";
import { Told } from "../../shores/Told";
import { EMPTY, partsOf, usable, WAYS, type Field, type Locator, type Picked } from "./field";
import { CoveredPages, FieldName, LocatorLine, TriedValues } from "./FieldParts";
import { useCovered, useTried } from "./queries";
import { Parts } from "./Parts";
import { Taught, useTeaching } from "./Taught";
import { BUSY, off } from "../../shell/off";

export function FieldEditor({
  field,
  treat: had,
  index,
  kind,
  page,
  onDone,
  picked,
  onTried,
}: {
  field: Field;
  treat: string[]; // its treatments as a person writes them
  index: number;
  kind: string;
  page: number;
  onDone: (name: string | null) => void;
  picked: Picked | null;
  onTried: (nodes: number[]) => void;
}) {
  const [draft, setDraft] = useState(field);
  const was = had.join("\n");
  const [treat, setTreat] = useState(was);
  const [five, setFive] = useState(false);
  const save = useChangePlan();
  const form = useRef<HTMLFormElement>(null);
  useEffect(() => {
    void form.current?.scrollIntoView({ block: "start" });
  }, [page]); // the cards above it grow with the values of the page
  const fresh = index < 0;
  const full: Field = { ...draft, treat: treat.split("\n").filter((line) => line.trim()) as unknown as Field["treat"] };
  const dirty =
    fresh || JSON.stringify({ ...full, treat: [] }) !== JSON.stringify({ ...field, treat: [] }) || treat !== was;
  useUnsaved("field", dirty && !save.isSuccess ? `the field ${draft.name || "(new)"}` : "", "kind field");
  const ready = usable(full);
  const lacks = draft.type === "group" && !ready.parts?.length;
  const tried = useTried(ready.locators.length && !lacks ? ready : null, kind, five ? [] : page ? [page] : []);
  const covered = useCovered(ready.locators.length && !lacks ? ready : null, kind);
  const first = tried.data?.find((t) => t.address === page) ?? tried.data?.[0];
  const nodes = JSON.stringify(first?.address === page ? (first?.nodes ?? []) : []);
  useEffect(() => onTried(JSON.parse(nodes) as number[]), [nodes, onTried]);
  const use = useCallback(
    (offer: Schemas["OfferRow"]) => {
      setDraft((d) => ({
        ...d,
        name: d.name || offer.name,
        type: fresh && d.type === "line" ? offer.type : d.type,
        locators: offer.locators,
        parts: d.type === "group" ? offer.parts : d.parts,
      }));
      setTreat((lines) => (lines.trim() ? lines : offer.treat.join("\n")));
    },
    [fresh],
  );
  const teaching = useTeaching(kind, draft.type, picked, use);
  const setLocator = (n: number, locator: Locator) =>
    setDraft({ ...draft, locators: draft.locators.map((l, m) => (m === n ? locator : l)) });
  const submit = () =>
    save.mutate(
      {
        text: fresh ? `field ${draft.name} of ${kind} made` : `field ${draft.name} of ${kind} changed`,
        change: (plan) => {
          const k = plan.kinds?.find((x) => x.name === kind);
          if (!k) throw new Problem(`The kind ${kind} is not in the plan any more.`, 0);
          const fields = (k.fields ??= []);
          const made = {
            ...full,
            parts: partsOf(full),
            locators: full.locators.filter((l) => WAYS.some(([w]) => l[w])),
          };
          if (fresh) fields.push(made);
          else fields[index] = made;
        },
      },
      { onSuccess: () => (allSaved(), onDone(draft.name)) },
    );
  return (
    <form
      ref={form}
      className="card on"
      style={{ cursor: "default" }}
      aria-label={`Field ${draft.name}`}
      onSubmit={(e) => {
        e.preventDefault();
        submit();
      }}
    >
      <div style={{ display: "flex", flexDirection: "column", gap: 8 }}>
        <FieldName draft={draft} fresh={fresh} onChange={setDraft} />
        {draft.type === "group" && <Parts parts={draft.parts ?? []} onSet={(parts) => setDraft({ ...draft, parts })} />}
        {draft.locators.map((locator, n) => (
          <LocatorLine
            key={n}
            locator={locator}
            first={n === 0}
            onSet={(made) => setLocator(n, made)}
            onDrop={
              draft.locators.length > 1
                ? () => setDraft({ ...draft, locators: draft.locators.filter((_, m) => m !== n) })
                : undefined
            }
          />
        ))}
        <Taught teaching={teaching} used={draft.locators} onUse={use} />
        <div className="acts">
          <button
            type="button"
            className="linkish"
            onClick={() =>
              setDraft({
                ...draft,
                locators: [...draft.locators, EMPTY],
              })
            }
          >
            + if that finds nothing
          </button>
          <label className="check" style={{ marginLeft: "auto" }}>
            <input
              type="checkbox"
              checked={draft.required ?? false}
              onChange={(e) => setDraft({ ...draft, required: e.target.checked })}
            />{" "}
            required
          </label>
        </div>
        {!["blocks", "picture", "group"].includes(draft.type) && (
          <TextField
            label="Treatments, one a line"
            placeholder={"trim\nfirst number\ndate: %d %B %Y"}
            multiline
            minRows={1}
            value={treat}
            onChange={(e) => setTreat(e.target.value)}
            slotProps={{ htmlInput: { className: "mono", spellCheck: false } }}
          />
        )}
        <Told error={tried.error} />
        <TriedValues
          rows={five ? (tried.data ?? []) : first ? [first] : []}
          named={five}
          lines={treat.split("\n").filter((line) => line.trim())}
        />
        <Told error={covered.error} />
        <CoveredPages covered={covered.covered} />
        <Told error={save.error} />
        <div className="acts">
          <Button
            type="submit"
            variant="contained"
            {...off(
              [!dirty, "Nothing is changed."],
              [!draft.name, "Give it a name first."],
              [lacks, "Say what each member has, or click one of them in the page."],
              [save.isPending, BUSY],
            )}
          >
            {fresh ? "Make this field" : "Save"}
          </Button>
          <Button type="button" variant="outlined" onClick={() => setFive(!five)} aria-pressed={five}>
            {five ? "This page only" : "Try on five"}
          </Button>
          {!fresh && (
            <Button
              type="button"
              onClick={() =>
                save.mutate(
                  {
                    text: `field ${field.name} of ${kind} removed`,
                    change: (plan) => plan.kinds?.find((k) => k.name === kind)?.fields?.splice(index, 1),
                  },
                  { onSuccess: () => (allSaved(), onDone(null)) },
                )
              }
            >
              Remove
            </Button>
          )}
          <Button type="button" onClick={() => (allSaved(), onDone(null))}>
            {dirty ? "Leave it" : "Close"}
          </Button>
        </div>
      </div>
    </form>
  );
}
