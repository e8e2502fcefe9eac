/** Items without a new address, each with the reason; and how many there are of each. */
import { useQuery } from "@tanstack/react-query";
import { useCallback, useMemo } from "react";
import { client, take, type Schemas } from "../../api/client";
import { useGo } from "../../shell/Frame";
import { count, many, useCrossingId, useLink } from "../../shell/state";
import { LongList, type Column } from "../../shores/LongList";
import { Empty, Told } from "../../shores/Told";
import { Addr } from "../../shores/Addr";

type Row = Schemas["ItemRow"];

export function useWithout() {
  const id = useCrossingId();
  return useQuery({
    queryKey: ["without-address", id],
    queryFn: () =>
      take(client.GET("/api/crossings/{crossing}/items/without-address", { params: { path: { crossing: id } } })),
  });
}

export function Places() {
  const id = useCrossingId();
  const link = useLink();
  const go = useGo();
  const without = useWithout();
  const kind = link.get("kind");
  const load = useCallback(
    (offset: number, limit: number, signal: AbortSignal) =>
      take(
        client.GET("/api/crossings/{crossing}/items", {
          params: { path: { crossing: id }, query: { placed: false, kind: kind || undefined, offset, limit } },
          signal,
        }),
      ),
    [id, kind],
  );
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
            {kind && (
              <button className="linkish" onClick={() => void go(`sort?kind=${encodeURIComponent(kind)}`)}>
                to the kind {kind}
              </button>
            )}
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
            view={[id, kind]}
            load={load}
            onOpen={open}
          />
        </>
      )}
    </section>
  );
}
