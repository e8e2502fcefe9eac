/** Items without a new address, each with the reason; and how many there are of each. */
import { useCallback, useMemo } from "react";
import type { Schemas } from "../../api/client";
import { Go, useGo } from "../../shell/Go";
import { count, many, useLink } from "../../shell/state";
import { LongList, type Column } from "../../shores/LongList";
import { Empty, Told } from "../../shores/Told";
import { Addr } from "../../shores/Addr";
import { useWithout, useWithoutRows } from "./queries";

type Row = Schemas["ItemRow"];

export function Places() {
  const link = useLink();
  const go = useGo();
  const without = useWithout();
  const kind = link.get("kind");
  const { view, load } = useWithoutRows(kind);
  const open = useCallback((r: Row) => void go(`lift?kind=${encodeURIComponent(r.kind)}&page=${r.address ?? 0}`), [go]);
  const columns = useMemo<Column<Row>[]>(
    () => [
      {
        id: "key",
        label: "old page",
        width: 220,
        grow: true,
        look: "mono",
        cell: (r) => (
          <button className="linkish" title={r.title} onClick={() => open(r)}>
            <Addr of={r.key} />
          </button>
        ),
      },
      { id: "kind", label: "kind", width: 120, cell: (r) => r.kind },
      { id: "title", label: "title", width: 200, cell: (r) => r.title },
      { id: "note", label: "why it gets no address", width: 380, grow: true, cell: (r) => r.note || "not decided yet" },
    ],
    [open],
  );
  const rows = without.data ?? [];
  return (
    <section className="panel" style={{ flex: 1 }} aria-label="Items without a new address">
      <Told error={without.error} />
      {without.data && !rows.length ? (
        <Empty title="Every item has a new address.">Items that get none stand here, each with the reason.</Empty>
      ) : (
        <>
          <div className="filters">
            {rows.map((r) => (
              <button
                key={`${r.kind} ${r.reason}`}
                className={`chip${kind === r.kind ? " on" : ""}`}
                aria-pressed={kind === r.kind}
                title={`such as ${r.example}`}
                onClick={() => link.set({ kind: kind === r.kind ? null : r.kind }, true)}
              >
                {r.kind}: {r.reason} <b>{count(r.count)}</b>
              </button>
            ))}
            <span className="sp" />
            {kind && <Go to={`sort?kind=${encodeURIComponent(kind)}`}>to the kind {kind}</Go>}
            <span className="soft">
              {many(
                rows.reduce((sum, r) => sum + r.count, 0),
                "item",
              )}
            </span>
          </div>
          <LongList<Row>
            name="places"
            label="Items without a new address"
            columns={columns}
            view={view}
            load={load}
            onOpen={open}
          />
        </>
      )}
    </section>
  );
}
