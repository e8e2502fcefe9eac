/** Pages that are made alike, drawn, with the rule that tells each group apart; one press makes a kind of it. */
import { Slider } from "@mui/material";
import { useEffect, useRef, useState } from "react";
import { useKeys } from "../../shell/keys";
import { off } from "../../shell/off";
import { many, useLink, useStart } from "../../shell/state";
import { useLive } from "../../shores/Run";
import { Empty, Told } from "../../shores/Told";
import { ChosenGroups } from "./ChosenGroups";
import { GroupCard } from "./GroupCard";
import { GroupPages } from "./GroupPages";
import { useDivide, useGroups } from "./queries";

const MOST = 200; // cards drawn at once

/** How many groups: a cut from many to few, kept in the page's address. */
export function useCut() {
  const link = useLink();
  const cut = Number(link.get("cut") || 2);
  const within = Number(link.get("within").split(".")[0] || 99); // a part of a group is looked at below that cut alone
  return [
    Number.isInteger(cut) && cut >= 0 && cut <= 4 ? cut : 2,
    (to: number) => link.set(to < within ? { cut: to } : { cut: to, within: null }),
  ] as const;
}

export function Makes() {
  const link = useLink();
  const [cut, setCut] = useCut();
  const within = link.get("within");
  const found = useGroups(cut, within);
  const start = useStart();
  const live = useLive(["group"]);
  const [picked, setPicked] = useState<number[]>([]);
  const [act, setAct] = useState<"join" | "aside" | "">("");
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
  const here = useRef({ place: chosen, picked }); // the next press may come before this one is drawn
  useEffect(() => {
    here.current = { place: chosen, picked };
  }, [chosen, picked]);
  const step = (by: number) => {
    here.current.place = Math.max(0, Math.min(Math.min(groups.length, MOST) - 1, here.current.place + by));
    const next = groups[here.current.place];
    if (!next) return;
    link.set({ group: String(next.number) }, true);
    setNaming(false);
  };
  const pickAll = (numbers: number[]) => {
    here.current.picked = numbers;
    setPicked(numbers);
  };
  const none = () => (pickAll([]), setAct(""));
  const at = useRef(cut); // a second press may come before the first is drawn
  useEffect(() => {
    at.current = cut;
  }, [cut]);
  const coarser = (by: number) => {
    at.current = Math.max(0, Math.min(cuts.length - 1, at.current + by));
    none();
    setCut(at.current);
  };
  const pick = (number: number) => {
    const had = here.current.picked;
    pickAll(had.includes(number) ? had.filter((n) => n !== number) : [...had, number]);
  };
  const onHere = (run: (number: number) => void) => {
    const one = groups[here.current.place];
    if (one) run(one.number);
  };
  const aside = () => {
    if (!here.current.picked.length) onHere(pick);
    setAct("aside");
  };
  const divide = useDivide(cut, (number, finer) => {
    pickAll([]);
    link.set({ cut: finer, within: `${cut}.${number}`, group: null });
  });
  useKeys([
    { key: "j", says: "next group", run: () => step(1) },
    { key: "k", says: "previous group", run: () => step(-1) },
    {
      key: "n",
      says: "make a kind of this group, or of those chosen",
      run: () => (here.current.picked.length ? setAct("join") : onHere(() => setNaming(true))),
    },
    { key: "x", says: "choose this group", run: () => onHere(pick) },
    { key: "s", says: "set the chosen groups aside", run: aside },
    { key: "v", says: "divide this group", run: () => onHere(divide.mutate) },
    { key: "[", says: "fewer groups", run: () => coarser(1) },
    { key: "]", says: "more groups", run: () => coarser(-1) },
  ]);
  const group = groups[chosen];
  const several = groups.filter((g) => picked.includes(g.number));
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
              onChange={(_, n) => (none(), setCut(n))}
              sx={{ width: 110 }}
            />
            <small>fewer</small>
          </span>
        )}
      </h2>
      {found.data && groups.length > 0 && (
        <p className="soft pad">
          {many(found.data.pages, "page")}
          {live ? " · grouping …" : found.data.behind ? " · pages have changed since" : ""}{" "}
          <button
            className="linkish"
            onClick={() => start.mutate({ kind: "group" })}
            {...off([!!live, "They are being grouped."], [!found.data.behind, "No page has changed since."])}
          >
            group again
          </button>
        </p>
      )}
      <Told error={found.error ?? start.error ?? divide.error} />
      {within && (
        <p className="soft pad">
          {many(groups.length, "group")} out of one.{" "}
          <button
            className="linkish"
            onClick={() =>
              link.set({ cut: within.split(".")[0] ?? null, group: within.split(".")[1] ?? null, within: null })
            }
          >
            back to all groups
          </button>
        </p>
      )}
      <ChosenGroups groups={several} cut={cut} act={act} onAct={setAct} onDone={none} />
      <div className="scroll pad" role={groups.length ? "list" : undefined}>
        {groups.slice(0, MOST).map((one, n) => (
          <GroupCard
            key={one.number}
            group={one}
            on={n === chosen}
            naming={naming && n === chosen}
            cut={cut}
            chosen={picked.includes(one.number)}
            finest={cut === 0}
            onPick={() => pick(one.number)}
            onDivide={() => divide.mutate(one.number)}
            onOpen={() => (link.set({ group: String(one.number) }, true), setNaming(false))}
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
