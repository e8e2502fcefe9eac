/** What is behind: counted beside the rail's stages, listed, and brought up to date by one press. */
import { Popover } from "@mui/material";
import { useState } from "react";
import { Told } from "../shores/Told";
import { useKeys } from "./keys";
import { useBehind, useBehindRows } from "./queries";
import { count, useJobs, useStart } from "./state";
import { Addr } from "../shores/Addr";
import { BUSY, off } from "./off";

const SHOWN = 200;
const NAME: Record<string, string> = { sort: "Sort", lift: "Lift", refit: "Refit", route: "Route" };

function Listed({ stages }: { stages: Record<string, number> }) {
  const names = Object.keys(stages);
  const [chosen, setChosen] = useState("");
  const stage = names.includes(chosen) ? chosen : "";
  const rows = useBehindRows(stage, SHOWN);
  const more = (rows.data?.total ?? 0) - (rows.data?.rows.length ?? 0);
  return (
    <div style={{ width: 620 }}>
      <div className="filters" style={{ padding: "10px 10px 6px" }}>
        {names.map((name) => (
          <button
            key={name}
            className={`chip${stage === name ? " on" : ""}`}
            aria-pressed={stage === name}
            onClick={() => setChosen(stage === name ? "" : name)}
          >
            {NAME[name] ?? name} <b>{count(stages[name])}</b>
          </button>
        ))}
      </div>
      <Told error={rows.error} />
      <div className="scroll" style={{ maxHeight: 320 }} tabIndex={0} role="region" aria-label="What is behind">
        <table className="plain">
          <tbody>
            {(rows.data?.rows ?? []).map((r, n) => (
              <tr key={n}>
                <td className="nowrap">{NAME[r.stage] ?? r.stage}</td>
                <td className="mono" style={{ overflowWrap: "anywhere" }}>
                  <Addr of={r.key} whole /> {r.field}
                </td>
                <td className="soft nowrap">{r.said}</td>
              </tr>
            ))}
          </tbody>
        </table>
        {more > 0 && <div className="soft pad">… and {count(more)} more.</div>}
      </div>
    </div>
  );
}

/** In the head of a crossing: how much is behind, what, and the press that brings it up to date. */
export function Behind() {
  const behind = useBehind();
  const start = useStart();
  const jobs = useJobs();
  const [at, setAt] = useState<HTMLElement | null>(null);
  const total = behind.data?.total ?? 0;
  const busy = (jobs.data ?? []).some((j) => j.kind === "update" && ["queued", "running"].includes(j.state));
  const run = () => total > 0 && !busy && start.mutate({ kind: "update" });
  useKeys([{ key: "u", says: "bring up to date what is behind", run: () => void run() }]);
  if (behind.error ?? start.error) return <Told error={behind.error ?? start.error} />;
  if (!total) return null;
  return (
    <span className="behind" role="status">
      <button className="linkish" aria-haspopup="dialog" onClick={(e) => setAt(e.currentTarget)}>
        {count(total)} behind
      </button>
      <button className="chip" onClick={run} {...off([busy, BUSY])}>
        Bring up to date <kbd style={{ marginLeft: 5 }}>U</kbd>
      </button>
      <Popover
        open={!!at}
        anchorEl={at}
        onClose={() => setAt(null)}
        anchorOrigin={{ vertical: "bottom", horizontal: "left" }}
        transformOrigin={{ vertical: "top", horizontal: "left" }}
      >
        {at && <Listed stages={behind.data?.stages ?? {}} />}
      </Popover>
    </span>
  );
}
