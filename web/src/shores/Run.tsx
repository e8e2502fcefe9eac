/** The line under a title while a job of the view runs: what, how many of how many, how long still; and stop. */
import { Button } from "@mui/material";
import { Bar, isLive, says } from "../shell/Jobs";
import { useWish } from "../shell/queries";
import { Told } from "./Told";
import { count, useJobs, type Job, type JobKind } from "../shell/state";

/** The job of some kinds that goes on, of those that are of a side the one of that side. */
export function useLive(kinds: JobKind[], side?: Job["side"]) {
  const jobs = useJobs();
  return (jobs.data ?? []).find((j) => kinds.includes(j.kind) && (!side || j.side === side) && isLive(j));
}

/** Of the jobs of one stage, or of all: which jobs are of a stage is the registry's to say. */
export function RunLine({ stage }: { stage?: string }) {
  const jobs = useJobs();
  const wish = useWish();
  const mine = (jobs.data ?? []).filter((j) => !stage || j.stage === stage);
  const live = mine.find(isLive);
  const last = mine[0];
  const shown = live ?? (last && last.state === "failed" ? last : undefined);
  if (!shown) return null;
  const more = Object.entries(shown.counters as Record<string, unknown>).filter(
    ([name, value]) => !["done", "all", "paused"].includes(name) && typeof value === "number",
  );
  return (
    <div className="runline" role="status">
      {live ? <span className="dot" /> : null}
      <b>{says(shown)}</b>
      {live && <Bar job={shown} />}
      {more.map(([name, value]) => (
        <span key={name} className="soft">
          {name.replaceAll("_", " ")} <b>{count(value as number)}</b>
        </span>
      ))}
      {shown.error && <span style={{ color: "var(--bad)" }}>{shown.error}</span>}
      <span className="sp" />
      {live?.pauses && (
        <Button
          variant="outlined"
          onClick={() => wish.mutate({ job: live.id, what: live.wish === "pause" ? "go-on" : "pause" })}
        >
          {live.wish === "pause" ? "Go on" : "Pause"}
        </Button>
      )}
      {live && (
        <Button variant="outlined" onClick={() => wish.mutate({ job: live.id, what: "stop" })}>
          Stop
        </Button>
      )}
      <Told error={wish.error} />
    </div>
  );
}
