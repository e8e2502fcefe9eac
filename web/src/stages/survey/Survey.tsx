/** Survey: a site's tree, every address, and one address in detail; the old site's or the new one's. */
import { Button } from "@mui/material";
import { useState } from "react";
import { useKeys } from "../../shell/keys";
import { count, many, useCrossing, useLink, usePlan, useStart } from "../../shell/state";
import { Log } from "../../shores/Log";
import { PathTree } from "../../shores/PathTree";
import { useLive } from "../../shores/Run";
import { StageHead } from "../../shores/StageHead";
import { Empty } from "../../shores/Told";
import { AddressList } from "./AddressList";
import { CHANGE_COLUMNS, COLUMNS, FILTERS, NEW_COLUMNS, NEW_FILTERS } from "./columns";
import { Detail } from "./Detail";
import { GiveOut } from "./GiveOut";
import { KeptOut } from "./KeptOut";
import { Lists } from "./Lists";
import { useEffectOf, useKeptOut } from "./keptOutQueries";
import { useRuns, useSite, type SideName } from "./queries";
import { Scope, type Missing } from "./Scope";
import { Soundings } from "./Soundings";
import { BUSY, RUNS, off } from "../../shell/off";

const CHANGED = { change: ["added", "changed", "gone", "back", "no answer"] };
const CHANGE_FILTERS: [string, string][] = [
  ["change", "change"],
  ["family", "what"],
  ["fate", "fate"],
];

/** Which of the two sites is in view; each has a list, a tree and facts of its own. */
function Sides({ side, onSide }: { side: SideName; onSide: (side: SideName) => void }) {
  return (
    <span className="sides" role="group" aria-label="Which site">
      {(["old", "new"] as const).map((name) => (
        <button
          key={name}
          className={`${name}${side === name ? " on" : ""}`}
          aria-pressed={side === name}
          onClick={() => onSide(name)}
        >
          {name === "old" ? "Old site" : "New site"}
        </button>
      ))}
    </span>
  );
}

export default function Survey() {
  const link = useLink();
  const plan = usePlan();
  const start = useStart();
  const crossing = useCrossing();
  const { side, host: own } = useSite();
  const old = side === "old";
  const live = useLive(["survey"], side);
  const tab = link.get("tab") || "addresses";
  const open = Number(link.get("open"));
  const runs = useRuns();
  const begun = old ? (crossing.data?.addresses ?? 0) > 0 : (runs.data ?? []).length > 0;
  const last = runs.data?.[runs.data.length - 1];
  const kept = useKeptOut();
  const admitted = useEffectOf(kept.data?.length && plan.data ? plan.data.plan : null, true);
  const left = (last?.waiting ?? 0) + Object.values(admitted.data?.let_in ?? {}).reduce((a, b) => a + b, 0);
  const changes = Object.values(last?.changes ?? {}).reduce((a, b) => a + b, 0);
  const allowed = plan.data?.plan.old.permission !== null;
  const [missing, setMissing] = useState<Missing>({ field: "", asked: 0 });
  const toScope = () => {
    link.set({ tab: "scope", ...(allowed ? {} : { side: null }) });
    setMissing((had) => ({ field: allowed ? "start" : "by", asked: had.asked + 1 }));
  };
  const run = () =>
    !live &&
    plan.data &&
    (allowed && own ? start.mutate({ kind: "survey", side, again: begun && left === 0 }) : toScope());
  const turn = (to: SideName) =>
    link.set({
      ...Object.fromEntries([...link.params.keys()].map((name) => [name, null])),
      tab: link.get("tab"),
      side: to === "new" ? "new" : null,
    });
  useKeys([
    { key: "r", says: `survey the ${side} site (again)`, run },
    { key: "o", says: "the other site", run: () => turn(old ? "new" : "old") },
    { key: "Escape", says: "close the address", run: () => link.set({ open: null }) },
  ]);
  return (
    <>
      <StageHead
        title="Survey"
        trade="crawl"
        at={tab}
        tabs={[
          ["addresses", "Addresses"],
          ...((last?.number ?? 1) > 1 ? ([["changes", `Changes ${count(changes)}`]] as [string, string][]) : []),
          ["kept", `Kept out ${count((kept.data ?? []).reduce((sum, g) => sum + g.count, 0))}`],
          ["soundings", "Soundings"],
          ["lists", old ? "Lists & logs" : "Lists"],
          ["scope", "Scope & manners"],
          ["log", "Log"],
        ]}
        aside={
          left > 0 && !live ? (
            <span title={last?.stopped}>
              {last?.stopped || `${many(left, "known address", "known addresses")} not visited yet`}
            </span>
          ) : (
            <span className="mono">{own}</span>
          )
        }
        stage="survey"
        before={<Sides side={side} onSide={turn} />}
        error={start.error ?? plan.error ?? runs.error ?? kept.error ?? crossing.error}
      >
        {begun && <GiveOut />}
        <Button
          variant="contained"
          onClick={run}
          {...off([!!live, RUNS], [start.isPending, BUSY], [!plan.data, "The plan is not here yet."])}
        >
          {!begun ? "Start the survey" : left > 0 ? "Go on" : "Survey again"}
        </Button>
      </StageHead>
      {tab === "scope" && <Scope key={side} waiting={last?.waiting ?? 0} missing={missing} />}
      {tab === "kept" && <KeptOut left={left} />}
      {tab === "soundings" && <Soundings />}
      {tab === "lists" && <Lists key={side} />}
      {tab === "changes" && last && (
        <div className="shores">
          <section className="panel" style={{ flex: 1 }} aria-label="Changes since the survey before">
            <AddressList
              name="changes"
              columns={old ? CHANGE_COLUMNS : CHANGE_COLUMNS.filter((c) => NEW_COLUMNS.some((n) => n.id === c.id))}
              filters={CHANGE_FILTERS.filter(([id]) => old || id !== "fate")}
              fixed={CHANGED}
              empty={
                <div className="empty">
                  {last.ended
                    ? `Nothing on the ${side} site is different from the survey before.`
                    : "This survey is not at its end yet."}
                </div>
              }
            />
          </section>
          {open > 0 && <Detail address={open} />}
        </div>
      )}
      {tab === "log" && <Log />}
      {tab === "addresses" && (
        <div className={`shores side-${side}`}>
          <section className={`shore ${side}`} style={{ flex: "0 0 224px" }} aria-label="Folders">
            <h2>{old ? "Old shore" : "New shore"}</h2>
            {own && (
              <PathTree
                key={side + own}
                side={side}
                own={own}
                host={link.all("host")[0] ?? ""}
                below={link.get("below")}
                onChoose={(host, below) =>
                  link.set({ host: host ? [host] : null, below: below === "/" ? null : below })
                }
              />
            )}
          </section>
          <section className="panel" style={{ flex: 1 }} aria-label="Addresses">
            <AddressList
              name={old ? "addresses" : "new-addresses"}
              columns={old ? COLUMNS : NEW_COLUMNS}
              filters={old ? FILTERS : NEW_FILTERS}
              empty={
                live && !begun ? (
                  <div className="empty">The first addresses are on their way.</div>
                ) : begun ? undefined : (
                  <Empty
                    title={`The ${side} site is not surveyed yet.`}
                    action={allowed && own ? "Start the survey" : "Scope & manners"}
                    onAction={run}
                  >
                    {!old && !own
                      ? "Nobody has said where it is. Name the interim host, or its start, under scope and manners."
                      : allowed
                        ? `Scope and manners say where it may go and how politely. It goes on with this page closed.${old ? "" : " What it finds stands beside the old site and is in no account."}`
                        : "First say in scope and manners who allowed the copy, how politely to fetch, and which folders to stay in. Then start; it goes on with this page closed."}
                  </Empty>
                )
              }
            />
          </section>
          {open > 0 && <Detail address={open} />}
        </div>
      )}
    </>
  );
}
