/** The log of a crossing, newest first, with filters by sort and text. */
import { useState } from "react";
import { useLog } from "../shell/queries";
import { clock } from "../shell/state";
import { Told } from "./Told";

const SORTS = [
  ["", "all"],
  ["job", "jobs"],
  ["log", "notes"],
  ["warning", "warnings"],
] as const;

export function Log() {
  const [kind, setKind] = useState("");
  const [text, setText] = useState("");
  const lines = useLog(kind);
  const shown = (lines.data ?? []).filter((l) => l.text.toLowerCase().includes(text.toLowerCase()));
  return (
    <div className="panel" style={{ flex: 1 }}>
      <div className="filters">
        {SORTS.map(([value, label]) => (
          <button
            key={value}
            className={`chip${kind === value ? " on" : ""}`}
            aria-pressed={kind === value}
            onClick={() => setKind(value)}
          >
            {label}
          </button>
        ))}
        <input
          className="find"
          placeholder="find in the log"
          aria-label="find in the log"
          value={text}
          onChange={(e) => setText(e.target.value)}
        />
      </div>
      <Told error={lines.error} />
      <div className="log" role="log" aria-label="Log" tabIndex={0}>
        {shown.map((line) => (
          <div key={line.id} className={line.kind}>
            <time>{clock(line.at)}</time>
            <span>{line.text}</span>
          </div>
        ))}
        {!shown.length && !lines.isPending && <div className="empty">Nothing is written here yet.</div>}
      </div>
    </div>
  );
}
