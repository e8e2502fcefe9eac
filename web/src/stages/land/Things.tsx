/** All landings, and what one of them did with every thing. */
import type { Schemas } from "../../api/client";
import { count, many, useLink, when } from "../../shell/state";
import { Addr } from "../../shores/Addr";
import { FateChip, useFates } from "../../shores/FateChip";
import { LongList, type Column } from "../../shores/LongList";
import { useThings, type Thing } from "./queries";

const COLUMNS: Column<Thing>[] = [
  { id: "state", label: "state", width: 90, look: "b", cell: (r) => r.state },
  { id: "type", label: "what", width: 76, cell: (r) => r.type },
  { id: "title", label: "title", width: 160, grow: true, cell: (r) => <span title={r.title}>{r.title}</span> },
  {
    id: "key",
    label: "old",
    width: 180,
    grow: true,
    look: "mono",
    cell: (r) => (r.type === "file" ? "" : <Addr of={r.key.replace(/^exact /, "")} />),
  },
  {
    id: "place",
    label: "new",
    width: 180,
    grow: true,
    look: "mono",
    cell: (r) => (r.place ? <Addr of={r.place} /> : "gone (410)"),
  },
  { id: "reason", label: "why", width: 110, cell: (r) => <span title={r.reason}>{r.reason}</span> },
];

export function Landings({ list, chosen }: { list: Schemas["LandingRow"][]; chosen: number }) {
  const link = useLink();
  return (
    <section className="panel" style={{ flex: "0 0 270px" }} aria-label="Landings">
      <h2>Landings</h2>
      <div className="scroll pad" tabIndex={0} role="region" aria-label="All landings">
        {[...list].reverse().map((l) => (
          <button
            key={l.id}
            className={`card${l.id === chosen ? " on" : ""}`}
            aria-pressed={l.id === chosen}
            onClick={() => link.set({ landing: l.id, state: null })}
          >
            <span className="top">
              <b>{l.dry ? "Dry run" : "Landing"}</b>
              <em>{l.ended ? when(l.ended) : "not ended"}</em>
            </span>
            <div>
              {l.dry ? "would create" : "created"} {count(l.counts.created as number)} ·{" "}
              {l.dry ? "would change" : "changed"} {count(l.counts.changed as number)} · same{" "}
              {count(l.counts.same as number)}
            </div>
            {((l.counts.refused as unknown[] | undefined)?.length ?? 0) > 0 && (
              <div style={{ color: "var(--bad)" }}>{many((l.counts.refused as unknown[]).length, "thing")} refused</div>
            )}
          </button>
        ))}
      </div>
    </section>
  );
}

export function Things({ landing }: { landing: number }) {
  const link = useLink();
  const state = link.get("state");
  const search = link.get("search");
  const { view, load, states } = useThings(landing, state, search, useFates());
  return (
    <section className="panel" style={{ flex: 1 }} aria-label="Things">
      <div className="filters">
        {["", "created", "changed", "same", "refused"].map((s) => (
          <button
            key={s}
            className={`chip${state === s ? " on" : ""}`}
            aria-pressed={state === s}
            onClick={() => link.set({ state: s || null })}
          >
            {s || "all"} {count(s ? (states[s] ?? 0) : Object.values(states).reduce((a, b) => a + b, 0))}
          </button>
        ))}
        <FateChip />
        <input
          className="find"
          placeholder="find a thing"
          aria-label="find a thing"
          value={search}
          onChange={(e) => link.set({ search: e.target.value }, true)}
        />
      </div>
      <LongList<Thing> name="things" label="Things of this landing" columns={COLUMNS} view={view} load={load} />
    </section>
  );
}
