/**
 * The long list: any number of rows in windows of a hundred from the server, plain cells, one delegated handler.
 * It keeps which columns are shown and how wide they are; filters, order and the open row belong to the caller.
 */
import { keepPreviousData, useQueries, useQuery } from "@tanstack/react-query";
import { useVirtualizer } from "@tanstack/react-virtual";
import { memo, useCallback, useEffect, useMemo, useRef, useState, type ReactNode } from "react";
import { useKeys } from "../shell/keys";
import { count } from "../shell/state";
import { ColumnMenu } from "./ColumnMenu";
import { Told } from "./Told";

export interface Column<R> {
  id: string;
  label: string;
  width: number;
  grow?: boolean;
  look?: "num" | "mono" | "b" | "mid";
  sort?: string;
  off?: boolean;
  cell: (row: R) => ReactNode;
}

export interface Picked {
  all: boolean;
  ids: Set<number>;
}
export const NONE: Picked = { all: false, ids: new Set() };

interface Props<R extends { id: number }> {
  name: string;
  label: string;
  columns: Column<R>[];
  view: unknown[];
  load: (offset: number, limit: number, signal: AbortSignal) => Promise<{ total: number; rows: R[] }>;
  order?: string;
  onOrder?: (order: string) => void;
  at?: number;
  onAt?: (row: R) => void;
  onOpen?: (row: R) => void;
  picked?: Picked;
  onPicked?: (picked: Picked) => void;
  singly?: boolean; // rows are chosen one by one; there is no “all that match”
  find?: (id: number) => Promise<number>;
  empty?: ReactNode;
  foot?: (total: number) => ReactNode;
  onCopy?: () => Promise<string>;
}

const ROW = 28;
const BLOCK = 100;
const blk = (n: number) => Math.floor(n / BLOCK);

interface Placed<R> extends Column<R> {
  left: number;
  w: number;
}

interface RowProps<R> {
  row: R | undefined;
  index: number;
  top: number;
  cols: Placed<R>[];
  at: boolean;
  picked: boolean;
  pick: boolean;
}

const Row = memo(function Row<R extends { id: number }>({ row, index, top, cols, at, picked, pick }: RowProps<R>) {
  return (
    <div
      role="row"
      id={row ? `row-${row.id}` : undefined}
      data-i={index}
      className={`r${at ? " at" : ""}${picked ? " picked" : ""}`}
      aria-rowindex={index + 2}
      aria-selected={at || picked}
      style={{ transform: `translateY(${top}px)` }}
    >
      {pick && (
        <div role="gridcell" className="c" style={{ left: 0, width: 30, padding: "5px 8px", lineHeight: 1 }}>
          <input type="checkbox" tabIndex={-1} checked={picked} readOnly aria-label="choose" />
        </div>
      )}
      {cols.map((c, n) => (
        <div
          key={c.id}
          role="gridcell"
          aria-colindex={n + 1 + (pick ? 1 : 0)}
          className={`c ${c.look ?? ""}`}
          style={{ left: c.left, width: c.w }}
        >
          {row ? c.cell(row) : "…"}
        </div>
      ))}
    </div>
  );
}) as <R extends { id: number }>(props: RowProps<R>) => ReactNode;

export function LongList<R extends { id: number }>(props: Props<R>) {
  const {
    name,
    label,
    columns,
    view,
    load,
    order = "",
    onOrder,
    at,
    onAt,
    onOpen,
    picked = NONE,
    onPicked,
    singly,
    find,
    empty,
    foot,
    onCopy,
  } = props;
  const scroller = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(0);
  const [hidden, setHidden] = useState<string[]>(
    () =>
      JSON.parse(localStorage.getItem(`grandferry.columns.${name}`) ?? "null") ??
      columns.filter((c) => c.off).map((c) => c.id),
  );
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  const [cursor, setCursor] = useState(-1);
  const [copied, setCopied] = useState("");
  const pickFrom = useRef(-1);
  const [[first, last], setRange] = useState<[number, number]>([0, 50]);
  const key = JSON.stringify(view);

  useEffect(() => {
    const el = scroller.current;
    if (!el) return;
    const watch = new ResizeObserver(() => setWidth(el.clientWidth));
    watch.observe(el);
    return () => watch.disconnect();
  }, []);

  const placed = useMemo(() => {
    const shown = columns.filter((c) => !hidden.includes(c.id));
    const fixed = shown.reduce((sum, c) => sum + c.width, onPicked ? 30 : 0);
    const growing = shown.filter((c) => c.grow).length;
    const extra = Math.max(0, width - fixed - 2) / Math.max(1, growing);
    let left = onPicked ? 30 : 0;
    return shown.map((c) => {
      const w = c.width + (c.grow ? extra : 0);
      const made = { ...c, left, w };
      left += w;
      return made;
    });
  }, [columns, hidden, width, onPicked]);
  const across = placed.length ? (placed[placed.length - 1]?.left ?? 0) + (placed[placed.length - 1]?.w ?? 0) : 0;

  const head = useQuery({
    queryKey: ["rows", name, key, 0],
    queryFn: ({ signal }) => load(0, BLOCK, signal),
    placeholderData: keepPreviousData,
  });
  const blocks = useMemo(
    () => Array.from({ length: blk(last) - blk(first) + 1 }, (_, n) => blk(first) + n),
    [first, last],
  );
  const got = useQueries({
    queries: blocks.map((b) => ({
      queryKey: ["rows", name, key, b],
      queryFn: ({ signal }: { signal: AbortSignal }) => load(b * BLOCK, BLOCK, signal),
      placeholderData: keepPreviousData,
    })),
    combine: (results) => results.map((r) => r.data?.rows),
  });
  const total = head.data?.total ?? 0;
  const rowAt = useCallback(
    (index: number): R | undefined => got[blk(index) - (blocks[0] ?? 0)]?.[index % BLOCK],
    [got, blocks],
  );

  const virtual = useVirtualizer({
    count: total,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW,
    overscan: 6,
    paddingStart: ROW,
    scrollPaddingStart: ROW,
    onChange: (v) => {
      if (!v.range) return;
      const a = v.range.startIndex;
      const b = Math.max(a, Math.min(v.options.count - 1, v.range.endIndex));
      setRange((had) => (blk(had[0]) === blk(a) && blk(had[1]) === blk(b) ? had : [a, b]));
    },
  });

  // the open row is shown where it stands, also when the page is opened by its address
  const sought = useRef<string>("");
  useEffect(() => {
    const want = `${at ?? ""}:${key}`;
    if (!at || !total || sought.current === want) return; // without rows there is nowhere to scroll to
    sought.current = want;
    const near = virtual.getVirtualItems().find((v) => rowAt(v.index)?.id === at);
    if (near) setCursor(near.index);
    else if (find)
      void find(at).then(
        (position) => {
          if (position >= 0) {
            setCursor(position);
            virtual.scrollToIndex(position, { align: "center" });
          }
        },
        () => undefined,
      );
  }, [at, key, find, virtual, rowAt, total]);

  // a row that was moved to is told as soon as it is there: its window may still be on the way
  const moved = useRef(-1);
  const openIt = useRef(false); // it was opened before it was there
  const arrive = useCallback(
    (index: number) => {
      const row = rowAt(index);
      if (!row || moved.current !== index) return;
      moved.current = -1;
      sought.current = `${row.id}:${key}`;
      onAt?.(row);
      if (openIt.current) onOpen?.(row);
      openIt.current = false;
    },
    [rowAt, key, onAt, onOpen],
  );
  useEffect(() => {
    if (moved.current >= 0) arrive(moved.current);
  }, [arrive]);

  const move = (to: number) => {
    if (!total) return;
    const index = Math.max(0, Math.min(total - 1, to));
    setCursor(index);
    virtual.scrollToIndex(index, { align: "auto" });
    moved.current = index;
    openIt.current = false;
    arrive(index);
  };
  const toggle = (index: number, many: boolean) => {
    const row = rowAt(index);
    if (!row || !onPicked) return;
    const ids = new Set(picked.ids);
    if (many && pickFrom.current >= 0) {
      const [a, b] = [Math.min(pickFrom.current, index), Math.max(pickFrom.current, index)];
      for (let n = a; n <= b; n++) {
        const r = rowAt(n);
        if (r) {
          if (picked.all) ids.delete(r.id);
          else ids.add(r.id);
        }
      }
    } else if (ids.has(row.id)) ids.delete(row.id);
    else ids.add(row.id);
    pickFrom.current = index;
    onPicked({ all: picked.all, ids });
  };
  const copy = async () => {
    if (!onCopy) return;
    const text = await onCopy();
    await navigator.clipboard.writeText(text).then(
      () => setCopied(`${count(text.split("\n").length - 2)} rows copied`),
      () => setCopied("The browser did not allow copying"),
    );
    window.setTimeout(() => setCopied(""), 3000);
  };
  const open = () => {
    const row = rowAt(cursor);
    if (row) onOpen?.(row);
    else openIt.current = moved.current >= 0;
  };
  useKeys([
    { key: "j", says: "next row", run: () => move(cursor + 1) },
    { key: "k", says: "previous row", run: () => move(cursor - 1) },
    { key: "Enter", says: "open", run: open },
    ...(onPicked ? [{ key: "x", says: "choose this row", run: () => cursor >= 0 && toggle(cursor, false) }] : []),
    ...(onOrder
      ? [
          {
            key: "s",
            says: "sort by the next column",
            run: () => {
              const sorts = placed.filter((c) => c.sort);
              const now = sorts.findIndex((c) => c.sort === order.replace("-", ""));
              const next = sorts[(now + 1) % sorts.length];
              if (next?.sort) onOrder(next.sort);
            },
          },
        ]
      : []),
    ...(onCopy ? [{ key: "c", says: "copy the list as text for a sheet", run: () => void copy() }] : []),
  ]);
  const isPicked = (id: number) => picked.all !== picked.ids.has(id);
  const pickedCount = picked.all ? total - picked.ids.size : picked.ids.size;

  return (
    <>
      <Told error={head.error} />
      <div className="listbox">
        <div
          ref={scroller}
          className="list"
          role="grid"
          tabIndex={0}
          aria-label={label}
          aria-rowcount={total + 1}
          aria-colcount={placed.length + (onPicked ? 1 : 0)}
          aria-multiselectable={onPicked ? true : undefined}
          aria-activedescendant={rowAt(cursor) ? `row-${rowAt(cursor)?.id}` : undefined}
          onKeyDown={(e) => {
            const page = Math.max(1, Math.floor((scroller.current?.clientHeight ?? 280) / ROW) - 2);
            const step: Record<string, number> = {
              ArrowDown: cursor + 1,
              ArrowUp: cursor - 1,
              PageDown: cursor + page,
              PageUp: cursor - page,
              Home: 0,
              End: total - 1,
            };
            if (e.key === " " && cursor >= 0 && onPicked) {
              e.preventDefault();
              toggle(cursor, false);
            } else if (e.key in step && !e.ctrlKey) {
              e.preventDefault();
              move(step[e.key] ?? 0);
            }
          }}
          onClick={(e) => {
            const line = (e.target as Element).closest<HTMLElement>("[data-i]");
            if (!line || (e.target as Element).closest("a,button")) return;
            const index = Number(line.dataset.i);
            if ((e.target as Element).closest("input") || e.shiftKey || e.ctrlKey) toggle(index, e.shiftKey);
            else move(index);
          }}
          onDoubleClick={(e) => {
            const line = (e.target as Element).closest<HTMLElement>("[data-i]");
            const row = line && rowAt(Number(line.dataset.i));
            if (row) onOpen?.(row);
          }}
        >
          <div className="head" role="rowgroup" style={{ width: Math.max(across, width) }}>
            <div role="row" aria-rowindex={1}>
              {onPicked && (
                <div
                  role="columnheader"
                  aria-label="chosen"
                  aria-colindex={1}
                  className="c h"
                  style={{ left: 0, width: 30 }}
                />
              )}
              {placed.map((c, n) => {
                const on = c.sort && order.replace("-", "") === c.sort;
                const down = order.startsWith("-");
                const sorts = c.sort !== undefined && onOrder !== undefined;
                return (
                  <div
                    key={c.id}
                    role="columnheader"
                    aria-colindex={n + 1 + (onPicked ? 1 : 0)}
                    aria-sort={on ? (down ? "descending" : "ascending") : undefined}
                    className={`c h ${c.look === "num" ? "num" : ""}`}
                    style={{ left: c.left, width: c.w, cursor: sorts ? "pointer" : undefined }}
                    title={sorts ? `sort by ${c.label}` : undefined}
                    onClick={() => sorts && onOrder(on && !down ? `-${c.sort}` : (c.sort as string))}
                  >
                    {c.label}
                    {on ? (down ? " ↓" : " ↑") : ""}
                  </div>
                );
              })}
            </div>
          </div>
          <div
            role="rowgroup"
            style={{
              position: "absolute",
              top: 0,
              left: 0,
              height: virtual.getTotalSize(),
              width: Math.max(across, width),
            }}
          >
            {virtual.getVirtualItems().map((v) => {
              const row = rowAt(v.index);
              return (
                <Row
                  key={v.key}
                  row={row}
                  index={v.index}
                  top={v.start}
                  cols={placed}
                  at={row ? row.id === at || (!at && v.index === cursor) : false}
                  picked={row && onPicked ? isPicked(row.id) : false}
                  pick={onPicked !== undefined}
                />
              );
            })}
          </div>
        </div>
        {!total && !head.isPending && !head.error && (
          <div className="nothing">{empty ?? <div className="empty">Nothing matches.</div>}</div>
        )}
      </div>
      <div className="count">
        <span>
          <b data-testid="total">{count(total)}</b> {total === 1 ? "row" : "rows"}
        </span>
        {onPicked && pickedCount > 0 && (
          <span>
            <b>{count(pickedCount)}</b> chosen
          </span>
        )}
        {onPicked && !singly && total > 0 && (
          <button className="linkish" onClick={() => onPicked(picked.all ? NONE : { all: true, ids: new Set() })}>
            {picked.all ? "choose none" : "choose all that match"}
          </button>
        )}
        {onPicked && !picked.all && picked.ids.size > 0 && (
          <button className="linkish" onClick={() => onPicked(NONE)}>
            choose none
          </button>
        )}
        {onCopy && total > 0 && (
          <button className="linkish" onClick={() => void copy()}>
            {copied || "copy as text"}
          </button>
        )}
        <button className="linkish" aria-haspopup="menu" onClick={(e) => setMenu(e.currentTarget)}>
          columns
        </button>
        {foot?.(pickedCount)}
      </div>
      <ColumnMenu
        name={name}
        columns={columns}
        hidden={hidden}
        onHidden={(next) => {
          setHidden(next);
          localStorage.setItem(`grandferry.columns.${name}`, JSON.stringify(next));
        }}
        anchor={menu}
        onClose={() => setMenu(null)}
      />
    </>
  );
}
