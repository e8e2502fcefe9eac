/** One row of a long list: plain cells, drawn anew only when something of it changes. */
import { memo, type ReactNode } from "react";
import { PICK, type Placed } from "./types";

interface RowProps<R> {
  row: R | undefined;
  index: number;
  top: number;
  cols: Placed<R>[];
  at: boolean;
  picked: boolean;
  pick: boolean;
}

export const Row = memo(function Row<R extends { id: number }>({
  row,
  index,
  top,
  cols,
  at,
  picked,
  pick,
}: RowProps<R>) {
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
        <div role="gridcell" className="c" style={{ left: 0, width: PICK, padding: "5px 8px", lineHeight: 1 }}>
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
