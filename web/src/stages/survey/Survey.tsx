/** Survey: the old site's tree, every address, and one address in detail. */
import { Button } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { client, take } from "../../api/client";
import { useKeys } from "../../shell/keys";
import { count, many, useCrossing, useCrossingId, useLink, usePlan, useStart } from "../../shell/state";
import { Log } from "../../shores/Log";
import { PathTree } from "../../shores/PathTree";
import { useLive } from "../../shores/Run";
import { StageHead } from "../../shores/StageHead";
import { Empty } from "../../shores/Told";
import { AddressList } from "./AddressList";
import { CHANGE_COLUMNS, COLUMNS } from "./columns";
import { Detail } from "./Detail";
import { useEffectOf } from "./Effect";
import { GiveOut } from "./GiveOut";
import { KeptOut } from "./KeptOut";
import { Lists } from "./Lists";
import { Scope } from "./Scope";
import { Soundings } from "./Soundings";

const CHANGED = { change: ["added", "changed", "gone", "back", "no answer"] };
const CHANGE_FILTERS: [string, string][] = [
  ["change", "change"],
  ["family", "what"],
  ["fate", "fate"],
];

export default function Survey() {
  const id = useCrossingId();
  const link = useLink();
  const plan = usePlan();
  const start = useStart();
  const crossing = useCrossing();
  const live = useLive(["survey"]);
  const tab = link.get("tab") || "addresses";
  const open = Number(link.get("open"));
  const own = plan.data?.plan.old.start.replace(/^https?:\/\//, "").split("/")[0] ?? "";
  const begun = (crossing.data?.addresses ?? 0) > 0;
  const runs = useQuery({
    queryKey: ["runs", id],
    queryFn: () => take(client.GET("/api/crossings/{crossing}/runs", { params: { path: { crossing: id } } })),
  });
  const last = runs.data?.[runs.data.length - 1];
  const kept = useQuery({
    queryKey: ["kept-out", id],
    queryFn: () => take(client.GET("/api/crossings/{crossing}/kept-out", { params: { path: { crossing: id } } })),
  });
  const admitted = useEffectOf(kept.data?.length && plan.data ? plan.data.plan : null, true);
  const left = (last?.waiting ?? 0) + Object.values(admitted.data?.let_in ?? {}).reduce((a, b) => a + b, 0);
  const changes = Object.values(last?.changes ?? {}).reduce((a, b) => a + b, 0);
  const allowed = plan.data?.plan.old.permission !== null;
  const run = () =>
    !live &&
    plan.data &&
    (allowed ? start.mutate({ kind: "survey", again: begun && left === 0 }) : link.set({ tab: "scope" }));
  useKeys([
    { key: "r", says: "survey the old site (again)", run },
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
          ["lists", "Lists & logs"],
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
        error={start.error ?? plan.error ?? runs.error ?? kept.error ?? crossing.error}
      >
        {begun && <GiveOut />}
        <Button variant="contained" onClick={run} disabled={!!live || start.isPending || !plan.data}>
          {!begun ? "Start the survey" : left > 0 ? "Go on" : "Survey again"}
        </Button>
      </StageHead>
      {tab === "scope" && <Scope waiting={last?.waiting ?? 0} />}
      {tab === "kept" && <KeptOut left={left} />}
      {tab === "soundings" && <Soundings />}
      {tab === "lists" && <Lists />}
      {tab === "changes" && last && (
        <div className="shores">
          <section className="panel" style={{ flex: 1 }} aria-label="Changes since the survey before">
            <AddressList
              name="changes"
              columns={CHANGE_COLUMNS}
              filters={CHANGE_FILTERS}
              fixed={CHANGED}
              empty={
                <div className="empty">
                  {last.ended
                    ? "Nothing on the old site is different from the survey before."
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
        <div className="shores">
          <section className="shore old" style={{ flex: "0 0 224px" }} aria-label="Folders">
            <h2>Old shore</h2>
            {own && (
              <PathTree
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
              name="addresses"
              columns={COLUMNS}
              empty={
                live && !begun ? (
                  <div className="empty">The first addresses are on their way.</div>
                ) : begun ? undefined : (
                  <Empty
                    title="The old site is not surveyed yet."
                    action={allowed ? "Start the survey" : "Scope & manners"}
                    onAction={run}
                  >
                    {allowed
                      ? "Scope and manners say where it may go and how politely. It goes on with this page closed."
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
