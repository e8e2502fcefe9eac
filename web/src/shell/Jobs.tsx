/** The running job in the header, and the list of jobs behind it. */
import { Button, Menu } from "@mui/material";
import { useState } from "react";
import { Told } from "../shores/Told";
import { useWish } from "./queries";
import { count, useJobs, when, type Job } from "./state";

export const isLive = (job: Job) => job.state === "running" || job.state === "queued";

export function figures(job: Job): { done: number; all: number } {
  const c = job.counters as Record<string, number>;
  const all = Number(c.all ?? (c.done ?? 0) + (c.waiting ?? 0));
  return { done: Number(c.done ?? 0), all };
}

/** How long still, from how long it took so far. */
export function still(job: Job): string {
  const { done, all } = figures(job);
  const spent = (Date.now() - new Date(job.started).getTime()) / 1000;
  if (!done || all <= done || spent < 3) return "";
  const seconds = Math.round((spent * (all - done)) / done);
  return seconds < 90 ? `, about ${seconds} s still` : `, about ${Math.round(seconds / 60)} min still`;
}

export function says(job: Job): string {
  const { done, all } = figures(job);
  const name = job.doing;
  if (job.state === "queued") return `${name} · waits for the worker`;
  if (job.wish === "pause" && isLive(job)) return `${name} paused · ${count(done)} of ${count(all)}`;
  if (job.state === "running") return `${name} · ${all ? `${count(done)} of ${count(all)}${still(job)}` : "begins"}`;
  if (job.state === "failed") return `${name} failed`;
  if (job.state === "stopped") return `${name} stopped`;
  const told = job.counters as Record<string, number>;
  if (told.left) return `${name} · ${count(done)} done, ${count(told.left)} left`;
  return all ? `${name} done · ${count(all)}` : `${name} done`;
}

export function Bar({ job }: { job: Job }) {
  const { done, all } = figures(job);
  const part = job.state === "done" ? 100 : all ? Math.min(100, (100 * done) / all) : 4;
  return (
    <span
      className="bar"
      role="progressbar"
      aria-label={says(job)}
      aria-valuenow={Math.round(part)}
      aria-valuemin={0}
      aria-valuemax={100}
    >
      <div style={{ width: `${part}%` }} />
    </span>
  );
}

export function JobLine() {
  const jobs = useJobs();
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const list = jobs.data ?? [];
  const shown = list.find((j) => j.state === "running") ?? list.find((j) => j.state === "queued") ?? list[0];
  const wish = useWish();
  if (jobs.error && !shown) return <Told error={jobs.error} />;
  if (!shown) return null;
  return (
    <>
      <button
        className="jobline"
        aria-haspopup="menu"
        onClick={(e) => setAnchor(e.currentTarget)}
        title={shown.error || says(shown)}
      >
        <Bar job={shown} />
        <span className="text">{says(shown)}</span>
      </button>
      <Menu
        anchorEl={anchor}
        open={anchor !== null}
        onClose={() => setAnchor(null)}
        slotProps={{ list: { "aria-label": "Jobs", component: "div" } }}
      >
        <Told error={jobs.error ?? wish.error} />
        <div style={{ maxHeight: 420, overflow: "auto", minWidth: 460 }}>
          <table className="plain">
            <tbody>
              {list.slice(0, 25).map((job) => (
                <tr key={job.id}>
                  <td>
                    {says(job)}
                    {job.error && <div className="state empty">{job.error}</div>}
                  </td>
                  <td className="n soft">{when(job.ended || job.started || job.created)}</td>
                  <td className="n">
                    {isLive(job) && (
                      <Button
                        size="small"
                        variant="outlined"
                        onClick={() => wish.mutate({ job: job.id, what: "stop" })}
                      >
                        Stop
                      </Button>
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      </Menu>
    </>
  );
}
