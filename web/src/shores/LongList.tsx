/**
 * The long list: any number of rows in windows of a hundred from the server, plain cells, one delegated handler.
 * It keeps which columns are shown and how wide they are; filters, order and the open row belong to the caller.
 */
import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useRef, useState, type ReactNode } from "react";
import { useKeys } from "../shell/keys";
import { count } from "../shell/state";
import { ColumnMenu } from "./ColumnMenu";
import { useChoosing } from "./list/choosing";
import { ListFoot } from "./list/Foot";
import { ListHead } from "./list/Head";
import { useMoving } from "./list/moving";
import { Row } from "./list/Row";
import { blockOf, usePlaced, useRows, type Load } from "./list/rows";
import { NONE, ROW, type Column, type Picked } from "./list/types";
import { Told } from "./Told";

export { NONE, type Column, type Picked };

interface Props<R extends { id: number }> {
  name: string;
  label: string;
  columns: Column<R>[];
  view: unknown[];
  load: Load<R>;
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
  const [copied, setCopied] = useState("");
  const [[first, last], setRange] = useState<[number, number]>([0, 50]);
  const key = JSON.stringify(view);

  useEffect(() => {
    const el = scroller.current;
    if (!el) return;
    const watch = new ResizeObserver(() => setWidth(el.clientWidth));
    watch.observe(el);
    return () => watch.disconnect();
  }, []);

  const { placed, across } = usePlaced(columns, hidden, width, onPicked !== undefined);
  const { head, total, at: rowAt } = useRows(name, key, load, first, last);

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
      setRange((had) => (blockOf(had[0]) === blockOf(a) && blockOf(had[1]) === blockOf(b) ? had : [a, b]));
    },
  });

  const { cursor, move, open } = useMoving({ at, key, total, rowAt, virtual, find, onAt, onOpen });
  const toggle = useChoosing(picked, onPicked, rowAt);
  const copy = async () => {
    if (!onCopy) return;
    const text = await onCopy();
    await navigator.clipboard.writeText(text).then(
      () => setCopied(`${count(text.split("\n").length - 2)} rows copied`),
      () => setCopied("The browser did not allow copying"),
    );
    window.setTimeout(() => setCopied(""), 3000);
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
          <ListHead
            placed={placed}
            width={Math.max(across, width)}
            pick={onPicked !== undefined}
            order={order}
            onOrder={onOrder}
          />
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
      <ListFoot
        total={total}
        picked={picked}
        chosen={pickedCount}
        onPicked={onPicked}
        singly={singly}
        copied={copied}
        onCopy={onCopy && (() => void copy())}
        onMenu={setMenu}
      >
        {foot?.(pickedCount)}
      </ListFoot>
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
