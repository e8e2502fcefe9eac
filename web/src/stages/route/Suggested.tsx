/** What open addresses have likely become, all at once: looked through by keys, taken one by one or at a threshold. */
import { Button } from "@mui/material";
import { useMemo, useState } from "react";
import { BUSY, RUNS, off } from "../../shell/off";
import { useKeys } from "../../shell/keys";
import { count, many, useLink, useSetPairs, useStart } from "../../shell/state";
import { useLive } from "../../shores/Run";
import { Addr } from "../../shores/Addr";
import { LongList, type Column } from "../../shores/LongList";
import { Told } from "../../shores/Told";
import { FoundPatterns } from "./FoundPatterns";
import { sure } from "./Likely";
import { useSuggested, useTakeSuggested, type SuggestedRow } from "./queries";

const COLUMNS: Column<SuggestedRow>[] = [
  { id: "confidence", label: "how sure", width: 84, cell: (r) => sure(r.confidence) },
  { id: "key", label: "old", width: 220, grow: true, look: "mono", cell: (r) => <Addr of={r.key} /> },
  { id: "new", label: "likely new", width: 220, grow: true, look: "mono", cell: (r) => <Addr of={`→ ${r.new}`} /> },
  { id: "reasons", label: "why", width: 200, grow: true, cell: (r) => r.reasons.join("; ") },
  { id: "visits", label: "visits", width: 60, look: "num", cell: (r) => count(r.visits) },
];

export function Suggested() {
  const link = useLink();
  const start = useStart();
  const live = useLive(["suggest", "route"]);
  const taking = useTakeSuggested();
  const pairs = useSetPairs();
  const [from, setFrom] = useState("0.9");
  const least = Number(from);
  const search = link.get("search");
  const { view, load, counts, known } = useSuggested(search);
  const at = known(Number(link.get("at")));
  const enough = useMemo(() => counts.find(([step]) => step === least)?.[1] ?? 0, [counts, least]);
  const all = counts.find(([step]) => step === 0)?.[1] ?? 0;
  const lead = (row: SuggestedRow, place: string) =>
    place === row.new
      ? taking.mutate({ ids: [row.id], at_least: 0.9 })
      : pairs.mutate({
          set: [{ old: row.key, new: place, status: 301, match: "exact", reason: "chosen of what was suggested" }],
          text: `${row.key} to ${place}`,
        });
  const places = at ? [{ new: at.new, confidence: at.confidence }, ...at.others] : [];
  useKeys([
    { key: "g", says: "look for likely places again", run: () => !live && start.mutate({ kind: "suggest" }) },
    { key: "y", says: "take what is suggested for this one", run: () => at && lead(at, at.new) },
    ...places.map((one, n) => ({
      key: `${n + 1}`,
      says: `take likely place ${n + 1}`,
      run: () => at && lead(at, one.new),
    })),
  ]);
  return (
    <div className="shores">
      <section className="panel" style={{ flex: 1.8 }} aria-label="Suggested pairs">
        <div className="filters">
          <input
            className="find"
            placeholder="find in suggestions"
            aria-label="find in suggestions"
            value={search}
            onChange={(e) => link.set({ search: e.target.value }, true)}
          />
          <label>
            take all that are at least{" "}
            <select value={from} onChange={(e) => setFrom(e.target.value)} aria-label="at least so sure">
              {counts
                .filter(([step]) => step >= 0.5)
                .map(([step, number]) => (
                  <option key={step} value={String(step)}>
                    {Math.round(100 * step)} % sure: {count(number)}
                  </option>
                ))}
            </select>
          </label>
          <Button
            variant="contained"
            onClick={() => taking.mutate({ ids: [], at_least: least })}
            {...off([taking.isPending, BUSY], [!enough, "None of them is so sure."])}
          >
            Take {count(enough)}
          </Button>
          <Button
            variant="outlined"
            onClick={() => start.mutate({ kind: "suggest" })}
            {...off([!!live, RUNS], [start.isPending, BUSY])}
          >
            {all ? "Look again" : "Look for likely places"} <kbd style={{ marginLeft: 5 }}>G</kbd>
          </Button>
        </div>
        <Told error={taking.error ?? pairs.error ?? start.error} />
        {taking.data && (
          <p className="told" role="status">
            {taking.data.taken
              ? `${many(taking.data.taken, "pair")} taken as suggested. Z takes ${taking.data.taken === 1 ? "it" : "them"} back.`
              : "Nothing was taken."}
          </p>
        )}
        <LongList<SuggestedRow>
          name="suggested"
          label="Suggested pairs"
          columns={COLUMNS}
          view={view}
          load={load}
          onOpen={(row) => link.set({ at: row.id }, true)}
          empty={
            <div className="empty">
              {search
                ? "Nothing that is suggested has this in it."
                : "Nothing is suggested. Open addresses are held against the new addresses of items, and against the pages of the new site where it was surveyed."}
            </div>
          }
        />
      </section>
      <section className="panel" style={{ flex: 1 }} aria-label="One suggestion">
        {at ? (
          <>
            <h2 style={{ display: "block" }}>
              <Addr of={at.key} whole />
            </h2>
            <div className="scroll form">
              <dl className="facts">
                <dt>Title</dt>
                <dd>{at.title || <span className="soft">none</span>}</dd>
                <dt>Why</dt>
                <dd>{at.reasons.join("; ")}</dd>
              </dl>
              <ol className="likely-list">
                {places.map((one, n) => (
                  <li key={one.new}>
                    <Button variant="outlined" onClick={() => lead(at, one.new)} {...off([taking.isPending, BUSY])}>
                      <kbd>{n + 1}</kbd>&nbsp;
                      <Addr of={one.new} whole />
                    </Button>{" "}
                    <small className="soft">{sure(one.confidence)}</small>
                  </li>
                ))}
              </ol>
            </div>
          </>
        ) : (
          <FoundPatterns />
        )}
      </section>
    </div>
  );
}
