/** The head of a long list: a click on a column sorts by it. */
import { PICK, type Placed } from "./types";

interface Props<R> {
  placed: Placed<R>[];
  width: number;
  pick: boolean;
  order: string;
  onOrder?: (order: string) => void;
}

export function ListHead<R>({ placed, width, pick, order, onOrder }: Props<R>) {
  return (
    <div className="head" role="rowgroup" style={{ width: width }}>
      <div role="row" aria-rowindex={1}>
        {pick && (
          <div
            role="columnheader"
            aria-label="chosen"
            aria-colindex={1}
            className="c h"
            style={{ left: 0, width: PICK }}
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
              aria-colindex={n + 1 + (pick ? 1 : 0)}
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
  );
}
