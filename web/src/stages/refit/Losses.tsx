/** All bodies by what they lost, the worst first. */
import { useCallback, useMemo } from "react";
import { Go } from "../../shell/Go";
import { useKeys } from "../../shell/keys";
import { count, useLink } from "../../shell/state";
import { FateChip, useFates } from "../../shores/FateChip";
import { LongList, type Column } from "../../shores/LongList";
import { Addr } from "../../shores/Addr";
import { useLossRows, type LossRow } from "./queries";

export function Losses() {
  const link = useLink();
  const search = link.get("search");
  const order = link.get("order") || "-unaccounted";
  const { view, load } = useLossRows(useFates(), search, order);
  const open = useCallback(
    (r: LossRow) => link.set({ tab: null, item: r.item, field: r.field, order: null, search: null }),
    [link],
  );
  const columns = useMemo<Column<LossRow>[]>(
    () => [
      {
        id: "key",
        label: "old page",
        width: 200,
        grow: true,
        look: "mono",
        sort: "key",
        cell: (r) => (
          <button className="linkish mono" title={r.title} onClick={() => open(r)}>
            <Addr of={r.key} />
          </button>
        ),
      },
      {
        id: "kind",
        label: "kind",
        width: 110,
        sort: "kind",
        cell: (r) => <Go to={`lift?kind=${encodeURIComponent(r.kind)}&page=${r.address}`}>{r.kind}</Go>,
      },
      { id: "words", label: "words", width: 80, look: "num", sort: "words", cell: (r) => count(r.words) },
      {
        id: "in_blocks",
        label: "in blocks",
        width: 90,
        look: "num",
        sort: "in_blocks",
        cell: (r) => count(r.in_blocks),
      },
      {
        id: "in_islands",
        label: "in raw islands",
        width: 110,
        look: "num",
        sort: "in_islands",
        cell: (r) => count(r.in_islands),
      },
      { id: "removed", label: "by steps", width: 90, look: "num", sort: "removed", cell: (r) => count(r.removed) },
      {
        id: "unaccounted",
        label: "unaccounted",
        width: 100,
        look: "num",
        sort: "unaccounted",
        cell: (r) => (
          <span style={r.unaccounted ? { color: "var(--orange)", fontWeight: 600 } : undefined}>
            {count(r.unaccounted)}
          </span>
        ),
      },
      {
        id: "lost",
        label: "things lost",
        width: 100,
        look: "num",
        sort: "lost",
        cell: (r) => (
          <span style={r.lost ? { color: "var(--orange)", fontWeight: 600 } : undefined}>{count(r.lost)}</span>
        ),
      },
    ],
    [open],
  );
  useKeys([{ key: "/", says: "find a body", run: () => document.querySelector<HTMLInputElement>(".find")?.focus() }]);
  return (
    <section className="panel" style={{ flex: 1 }} aria-label="Losses">
      <div className="filters">
        <FateChip />
        <input
          className="find"
          placeholder="find a body"
          aria-label="find a body"
          value={search}
          onChange={(e) => link.set({ search: e.target.value }, true)}
        />
      </div>
      <LongList<LossRow>
        name="losses"
        label="Bodies by what they lost"
        columns={columns}
        view={view}
        load={load}
        order={order}
        onOrder={(next) => link.set({ order: next }, true)}
        onOpen={open}
      />
    </section>
  );
}
