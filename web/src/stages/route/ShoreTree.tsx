/** The new shore as a tree of addresses, opened place by place; parts of it can be dragged to others. */
import { useState, type DragEvent, type KeyboardEvent } from "react";
import { count, many } from "../../shell/state";
import { useSettled } from "../../shell/settled";
import { Addr } from "../../shores/Addr";
import { Told } from "../../shores/Told";
import { STEP, useShore, type ShoreRow } from "./shoreQueries";

interface Held {
  chosen: string;
  onChoose: (row: ShoreRow) => void;
  /** A place was dragged onto another. */
  onDrop?: (path: string, onto: string) => void;
  says: (row: ShoreRow) => string;
}

export const lastOf = (path: string) => path.slice(path.lastIndexOf("/"));
const PLACE = "text/x-new-place";

export function ShoreTree(held: Held) {
  const [text, setText] = useState("");
  const search = useSettled(text, 200);
  const top = useShore("", search, STEP);
  return (
    <>
      <div className="pad" style={{ paddingBottom: 6 }}>
        <input
          className="find"
          style={{ width: "100%" }}
          placeholder="find a new address or title"
          aria-label="find a new address or title"
          value={text}
          onChange={(e) => setText(e.target.value)}
        />
      </div>
      <Told error={top.error} />
      <div className="scroll" role="region" tabIndex={0} aria-label="Addresses of the new shore">
        {top.data && <Rows rows={top.data.rows} total={top.data.total} level={0} whole={!!search} {...held} />}
        {top.data && !top.data.total && (
          <div className="empty">
            {search
              ? "No new address or title has this in it."
              : "No item has a new address yet. Lift the pages, then decide the fates."}
          </div>
        )}
      </div>
    </>
  );
}

function Below({ under, level, ...held }: Held & { under: string; level: number }) {
  const found = useShore(under, "", 500);
  if (!found.data) return <Told error={found.error} />;
  return <Rows rows={found.data.rows} total={found.data.total} level={level} whole={false} {...held} />;
}

function Rows({
  rows,
  total,
  level,
  whole,
  ...held
}: Held & { rows: ShoreRow[]; total: number; level: number; whole: boolean }) {
  return (
    <>
      {rows.map((row) => (
        <Place key={row.path} row={row} level={level} whole={whole} {...held} />
      ))}
      {rows.length < total && (
        <div className="soft" style={{ padding: `2px 12px 2px ${34 + 14 * level}px` }}>
          … {many(total - rows.length, "more address", "more addresses")}: find them by a text
        </div>
      )}
    </>
  );
}

function Place({ row, level, whole, ...held }: Held & { row: ShoreRow; level: number; whole: boolean }) {
  const { chosen, onChoose, onDrop, says } = held;
  const [open, setOpen] = useState(false);
  const [over, setOver] = useState(false);
  const shown = whole ? row.path : lastOf(row.path);
  const onKeyDown = (e: KeyboardEvent) => {
    if (!row.below || (e.key !== "ArrowRight" && e.key !== "ArrowLeft")) return;
    e.preventDefault();
    setOpen(e.key === "ArrowRight");
  };
  const dragging = (e: DragEvent) => !!onDrop && e.dataTransfer.types.includes(PLACE);
  return (
    <div className="grp" style={{ margin: 0 }}>
      <div
        className={`head${chosen === row.path || over ? " on" : ""}`}
        style={{ paddingLeft: 14 * level }}
        draggable={!!onDrop}
        onDragStart={(e) => {
          e.stopPropagation();
          e.dataTransfer.setData(PLACE, row.path);
          e.dataTransfer.effectAllowed = "move";
        }}
        onDragOver={(e) => {
          if (!dragging(e)) return;
          e.preventDefault();
          setOver(true);
        }}
        onDragLeave={() => setOver(false)}
        onDrop={(e) => {
          if (!dragging(e)) return;
          e.preventDefault();
          setOver(false);
          onDrop?.(e.dataTransfer.getData(PLACE), row.path);
        }}
      >
        {row.below > 0 && !whole ? (
          <button
            className="fold"
            aria-expanded={open}
            aria-label={`${open ? "close" : "open"} ${row.path}`}
            onClick={() => setOpen(!open)}
          >
            {open ? "▾" : "▸"}
          </button>
        ) : (
          <span aria-hidden="true" style={{ flex: "none", width: whole ? 0 : 22 }} />
        )}
        <button
          aria-pressed={chosen === row.path}
          onClick={() => (onDrop || row.here ? onChoose(row) : setOpen(!open))}
          onKeyDown={onKeyDown}
          title={says(row)}
          style={row.here ? undefined : { color: "var(--soft)" }}
        >
          <Addr of={shown} />
          {row.below > 0 && <em>{count(row.below)}</em>}
        </button>
      </div>
      {open && <Below under={row.path} level={level + 1} {...held} />}
    </div>
  );
}
