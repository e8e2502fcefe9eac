/** A kind made of one or several groups: its name, and how its pages are told from all others. */
import { Button } from "@mui/material";
import { useState } from "react";
import { BUSY, off } from "../../shell/off";
import { count, many, useChangePlan, usePlan, useStart } from "../../shell/state";
import { Told } from "../../shores/Told";
import { KindName } from "./KindName";
import { clear, EMPTY, nameOf, says, START_FIELDS, type Kind } from "./kind";
import { useGroupFields, useJoined, type Group } from "./queries";
import type { Schemas } from "../../api/client";

type TellRow = Schemas["ToldRow"];

/** How good a rule is: the mean of what it takes rightly and what it leaves out rightly (F1). */
const worth = (t: TellRow) => (2 * t.right) / Math.max(1, 2 * t.right + t.missed + t.wrong);

export function NewKind({ groups, cut, onDone }: { groups: Group[]; cut: number; onDone: () => void }) {
  const numbers = groups.map((g) => g.number);
  const first = groups[0]!;
  const pages = groups.reduce((sum, g) => sum + g.pages, 0);
  const fields = useGroupFields(cut, numbers);
  const joined = useJoined(cut, numbers);
  const plan = usePlan();
  const save = useChangePlan();
  const start = useStart();
  const taken = new Set((plan.data?.plan.kinds ?? []).map((k) => k.name));
  const [label, setLabel] = useState(first.name.replaceAll("_", " "));
  const [chosen, setWay] = useState<"rule" | "make" | "">("");
  const name = nameOf(label);
  const problem = !name ? "A name begins with a letter." : taken.has(name) ? `There is a kind “${name}” already.` : "";
  const byRule: TellRow = joined.data?.by_rule ?? first;
  const byMake = joined.data?.by_make;
  const way = chosen || (byMake && worth(byMake) > worth(byRule) + 0.02 ? "make" : "rule");
  const make = (begin: Kind["fields"]) =>
    save.mutate(
      {
        text: `kind ${label} made of ${many(pages, "page")} like ${first.key}`.slice(0, 300),
        change: (draft) => {
          const rule = way === "make" && byMake ? byMake.rule : byRule.rule;
          const made = { ...EMPTY, name, label, rules: [clear(rule)], fields: begin } as Kind;
          (draft.kinds ??= []).push(made);
        },
      },
      { onSuccess: () => (start.mutate({ kind: "sort" }), onDone()) },
    );
  const [waits, setWaits] = useState(false);
  /** Made as soon as its pages have been looked at. */
  const submit = async () => {
    setWaits(true);
    if (!joined.data && groups.length > 1) await joined.refetch({ cancelRefetch: false });
    const asked = fields.data ? fields : await fields.refetch({ cancelRefetch: false });
    setWaits(false);
    make(asked.data?.map((one) => one.field) ?? START_FIELDS);
  };
  const waiting = groups.length > 1 && !joined.data;
  return (
    <form
      className="naming"
      aria-label="New kind"
      onClick={(e) => e.stopPropagation()}
      onKeyDown={(e) => e.key === "Escape" && (e.stopPropagation(), onDone())}
      onSubmit={(e) => {
        e.preventDefault();
        if (!problem && !waiting) void submit();
      }}
    >
      <KindName label={label} problem={problem} onSet={setLabel} />
      <Button
        type="submit"
        variant="contained"
        {...off(
          [save.isPending || waits, BUSY],
          [!!problem, problem],
          [waiting, "A rule for them is being looked for."],
        )}
      >
        Make it
      </Button>
      <div className="ways" role="radiogroup" aria-label="How its pages are told">
        <Way on={way === "rule"} says={says(byRule.rule)} told={byRule} onUse={() => setWay("rule")} />
        {byMake ? (
          <Way on={way === "make"} says="their make alone, no rule" told={byMake} onUse={() => setWay("make")} />
        ) : (
          <small className="soft">{joined.error ? "" : "looking at what tells them apart …"}</small>
        )}
      </div>
      <small className="soft">
        {fields.data &&
          `with ${fields.data.map((one) => `${one.field.name} ${one.filled} of ${one.of}`).join(", ")} pages looked at`}
      </small>
      <Told error={save.error ?? start.error ?? fields.error ?? joined.error} />
    </form>
  );
}

function Way({ on, says: what, told, onUse }: { on: boolean; says: string; told: TellRow; onUse: () => void }) {
  return (
    <label className="check">
      <input type="radio" name="way" checked={on} onChange={onUse} />{" "}
      <span>
        {what}{" "}
        <small className={told.missed || told.wrong ? "soft" : "fits"}>
          {count(told.right)} right · {count(told.missed)} missed · {count(told.wrong)} of others
        </small>
      </span>
    </label>
  );
}
