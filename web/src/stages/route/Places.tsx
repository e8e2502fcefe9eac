/** Items without a new address, each with the reason, and how many there are of each; and those that have a number in
 * theirs, since another item was first to have it. */
import { useCallback, useMemo } from "react";
import type { Schemas } from "../../api/client";
import { Go, useGo } from "../../shell/Go";
import { count, many, useLink } from "../../shell/state";
import { LongList, type Column } from "../../shores/LongList";
import { Empty, Told } from "../../shores/Told";
import { Addr } from "../../shores/Addr";
import { useClashes, useWithout, useWithoutRows } from "./queries";

type Row = Schemas["ItemRow"];

const newOf = (r: Row) => <Addr of={r.new_path} />;

export function Places() {
  const link = useLink();
  const go = useGo();
  const without = useWithout();
  const kind = link.get("kind");
  const clashes = useClashes();
  const numbered = clashes.data?.total ?? 0;
  const clashing = numbered > 0 && (link.get("clash") === "1" || without.data?.length === 0);
  const { view, load } = useWithoutRows(kind, clashing);
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
      ...(clashing
        ? [{ id: "new", label: "new address", width: 240, grow: true, look: "mono", cell: newOf } satisfies Column<Row>]
        : []),
      {
        id: "note",
        label: clashing ? "why it has a number" : "why it gets no address",
        width: 380,
        grow: true,
        cell: (r) => r.note || "not decided yet",
      },
    ],
    [open, clashing],
  );
  const rows = without.data ?? [];
  return (
    <section className="panel" style={{ flex: 1 }} aria-label="Items without a new address">
      <Told error={without.error ?? clashes.error} />
      {without.data && clashes.data && !rows.length && !numbered ? (
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
                onClick={() => link.set({ kind: kind === r.kind ? null : r.kind, clash: null }, true)}
              >
                {r.kind}: {r.reason} <b>{count(r.count)}</b>
              </button>
            ))}
            {numbered > 0 && (
              <button
                className={`chip${clashing ? " on" : ""}`}
                aria-pressed={clashing}
                title="They would have had the address of another item; set one by hand as a pair, and it is locked"
                onClick={() => link.set({ clash: clashing ? null : 1, kind: null }, true)}
              >
                numbered, since another item was first <b>{count(numbered)}</b>
              </button>
            )}
            <span className="sp" />
            {kind && <Go to={`sort?kind=${encodeURIComponent(kind)}`}>to the kind {kind}</Go>}
            <span className="soft">
              {many(clashing ? numbered : rows.reduce((sum, r) => sum + r.count, 0), "item")}
            </span>
          </div>
          <LongList<Row>
            name="places"
            label={clashing ? "Items with a number in their address" : "Items without a new address"}
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
