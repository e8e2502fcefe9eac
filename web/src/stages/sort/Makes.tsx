/** Pages that are made alike, drawn, with the rule that tells each group apart; one press makes a kind of it. */
import { Button, Slider, TextField } from "@mui/material";
import { useEffect, useRef, useState } from "react";
import { Go } from "../../shell/Go";
import { useKeys } from "../../shell/keys";
import { BUSY, off } from "../../shell/off";
import { count, many, useChangePlan, useLink, usePlan, useStart } from "../../shell/state";
import { Addr } from "../../shores/Addr";
import { useLive } from "../../shores/Run";
import { Empty, Told } from "../../shores/Told";
import { clear, EMPTY, nameOf, says, START_FIELDS, type Kind } from "./kind";
import { Miniature } from "./Miniature";
import { useGroupFields, useGroupPages, useGroups, type Group } from "./queries";

const MOST = 200; // cards drawn at once

/** How many groups: a cut from many to few, kept in the page's address. */
export function useCut() {
  const link = useLink();
  const cut = Number(link.get("cut") || 2);
  return [Number.isInteger(cut) && cut >= 0 && cut <= 4 ? cut : 2, (to: number) => link.set({ cut: to })] as const;
}

export function Makes() {
  const link = useLink();
  const [cut, setCut] = useCut();
  const found = useGroups(cut);
  const start = useStart();
  const live = useLive(["group"]);
  const groups = found.data?.groups ?? [];
  const cuts = found.data?.cuts ?? [];
  const chosen = Math.max(
    0,
    groups.findIndex((g) => String(g.number) === link.get("group")),
  );
  const [naming, setNaming] = useState(false);
  const asked = useRef(false);
  const wanted = !!found.data?.behind && found.data.pages > 0 && !live;
  const begin = start.mutate;
  useEffect(() => {
    if (!wanted || asked.current) return;
    asked.current = true; // once: what fails is told, and begun again by hand
    begin({ kind: "group" });
  }, [wanted, begin]);
  const step = (by: number) => {
    const next = groups[Math.max(0, Math.min(Math.min(groups.length, MOST) - 1, chosen + by))];
    if (!next) return;
    link.set({ group: String(next.number) }, true);
    setNaming(false);
  };
  const at = useRef(cut); // a second press may come before the first is drawn
  useEffect(() => {
    at.current = cut;
  }, [cut]);
  const coarser = (by: number) => {
    at.current = Math.max(0, Math.min(cuts.length - 1, at.current + by));
    setCut(at.current);
  };
  useKeys([
    { key: "j", says: "next group", run: () => step(1) },
    { key: "k", says: "previous group", run: () => step(-1) },
    { key: "n", says: "make a kind of this group", run: () => groups[chosen] && setNaming(true) },
    { key: "[", says: "fewer groups", run: () => coarser(1) },
    { key: "]", says: "more groups", run: () => coarser(-1) },
  ]);
  const group = groups[chosen];
  return (
    <section className="shore old" style={{ flex: 1 }} aria-label="Pages made alike">
      <h2>
        Pages made alike <small>drawn from their structure; pale is what all pages share</small>
        <span className="sp" />
        {cuts.length > 0 && (
          <span className="coarse">
            <small id="coarse">more groups</small>
            <Slider
              size="small"
              aria-labelledby="coarse"
              aria-label="how coarse"
              value={cut}
              min={0}
              max={cuts.length - 1}
              step={1}
              marks
              valueLabelDisplay="auto"
              valueLabelFormat={(n) => many(cuts[n] ?? 0, "group")}
              getAriaValueText={(n) => many(cuts[n] ?? 0, "group")}
              onChange={(_, n) => setCut(n)}
              sx={{ width: 110 }}
            />
            <small>fewer</small>
          </span>
        )}
      </h2>
      <Told error={found.error ?? start.error} />
      <div className="scroll pad" role={groups.length ? "list" : undefined}>
        {groups.slice(0, MOST).map((one, n) => (
          <GroupCard
            key={one.number}
            group={one}
            on={n === chosen}
            naming={naming && n === chosen}
            cut={cut}
            onChoose={() => (link.set({ group: String(one.number) }, true), setNaming(false))}
            onName={(open) => (link.set({ group: String(one.number) }, true), setNaming(open))}
          />
        ))}
        {groups.length > MOST && <p className="soft">{many(groups.length - MOST, "smaller group")} not drawn.</p>}
        {found.data && !groups.length && <Nothing pages={found.data.pages} running={!!live} />}
      </div>
      {group && <GroupPages key={`${cut} ${group.number}`} group={group} cut={cut} />}
    </section>
  );
}

function Nothing({ pages, running }: { pages: number; running: boolean }) {
  if (!pages)
    return (
      <Empty title="There are no pages yet." action="To the survey" to={"survey"}>
        Survey the old site first; its pages are then grouped by how they are made.
      </Empty>
    );
  return <div className="empty">{running ? `Looking at ${many(pages, "page")} …` : "Nothing is grouped yet."}</div>;
}

function GroupCard({
  group,
  on,
  naming,
  cut,
  onChoose,
  onName,
}: {
  group: Group;
  cut: number;
  on: boolean;
  naming: boolean;
  onChoose: () => void;
  onName: (open: boolean) => void;
}) {
  const card = useRef<HTMLDivElement>(null);
  useEffect(() => {
    if (on) card.current?.scrollIntoView({ block: "nearest" });
  }, [on]);
  const [kind, most] = Object.entries(group.kinds)[0] ?? ["", 0];
  const others = Object.keys(group.kinds).length - 1;
  return (
    <div ref={card} className={`card make${on ? " on" : ""}`} role="listitem" aria-current={on} onClick={onChoose}>
      <Miniature drawing={group.drawing} />
      <div className="about">
        <span>
          <b>{many(group.pages, "page")}</b> like <Addr of={group.key} />
        </span>
        <span className="soft">{says(group.rule)}</span>
        <span className={group.missed || group.wrong ? "soft" : "fits"}>
          {count(group.right)} right · {count(group.missed)} missed · {count(group.wrong)} of others
        </span>
      </div>
      <div className="then">
        {naming ? (
          <NewKind group={group} cut={cut} onDone={() => onName(false)} />
        ) : kind && (most * 2 > group.pages || group.sorted === group.pages) ? (
          <Go to={`sort?tab=kinds&kind=${encodeURIComponent(kind)}`}>
            → {kind}
            {most < group.pages && ` (${count(most)})`}
            {others > 0 && ` and ${many(others, "more kind")}`}
          </Go>
        ) : (
          <Button variant={on ? "contained" : "outlined"} onClick={(e) => (e.stopPropagation(), onName(true))}>
            New kind {on && <kbd>N</kbd>}
          </Button>
        )}
      </div>
    </div>
  );
}

function NewKind({ group, cut, onDone }: { group: Group; cut: number; onDone: () => void }) {
  const fields = useGroupFields(cut, group.number);
  const plan = usePlan();
  const save = useChangePlan();
  const start = useStart();
  const taken = new Set((plan.data?.plan.kinds ?? []).map((k) => k.name));
  const [label, setLabel] = useState(group.name.replaceAll("_", " "));
  const name = nameOf(label);
  const problem = !name ? "A name begins with a letter." : taken.has(name) ? `There is a kind “${name}” already.` : "";
  const make = (first: Kind["fields"]) =>
    save.mutate(
      {
        text: `kind ${label} made of ${many(group.pages, "page")} like ${group.key}`.slice(0, 300),
        change: (draft) => {
          const made = { ...EMPTY, name, label, rules: [clear(group.rule)], fields: first } as Kind;
          (draft.kinds ??= []).push(made);
        },
      },
      { onSuccess: () => (start.mutate({ kind: "sort" }), onDone()) },
    );
  const [waits, setWaits] = useState(false);
  /** Made as soon as its pages have been looked at. */
  const submit = async () => {
    setWaits(true);
    const asked = fields.data ? fields : await fields.refetch({ cancelRefetch: false });
    setWaits(false);
    make(asked.data?.map((one) => one.field) ?? START_FIELDS);
  };
  return (
    <form
      className="naming"
      aria-label="New kind"
      onClick={(e) => e.stopPropagation()}
      onKeyDown={(e) => e.key === "Escape" && (e.stopPropagation(), onDone())}
      onSubmit={(e) => {
        e.preventDefault();
        if (!problem) void submit();
      }}
    >
      <TextField
        label="Name of the kind"
        value={label}
        autoFocus
        onFocus={(e) => e.target.select()}
        onChange={(e) => setLabel(e.target.value)}
        error={!!problem}
        helperText={problem || undefined}
      />
      <Button type="submit" variant="contained" {...off([save.isPending || waits, BUSY], [!!problem, problem])}>
        Make it
      </Button>
      <small className="soft">
        {fields.data &&
          `with ${fields.data.map((one) => `${one.field.name} ${one.filled} of ${one.of}`).join(", ")} pages looked at`}
      </small>
      <Told error={save.error ?? start.error ?? fields.error} />
    </form>
  );
}

function GroupPages({ group, cut }: { group: Group; cut: number }) {
  const found = useGroupPages(cut, group.number);
  const rows = found.data?.rows ?? [];
  return (
    <div className="grouppages" aria-label="Pages of the group">
      <Told error={found.error} />
      <p className="soft">
        {many(group.pages, "page")} of this make
        {(found.data?.total ?? 0) > rows.length && `, the first ${count(rows.length)}`}
      </p>
      <ul>
        {rows.map((page) => (
          <li key={page.address}>
            <Go to={`survey?open=${page.address}`}>
              <Addr of={page.key} />
            </Go>
            <span className="soft">{page.title}</span>
            <span>{page.kind}</span>
          </li>
        ))}
      </ul>
    </div>
  );
}
