/** What an old address is likely to have become: chosen by a click or by its number. */
import { useKeys } from "../../shell/keys";
import { Addr } from "../../shores/Addr";
import { Told } from "../../shores/Told";
import { useLikely } from "./queries";

/** Nothing is certain, and nothing that is named is out of the question. */
export const sure = (confidence: number) =>
  confidence < 0.01 ? "hardly likely" : `${Math.min(99, Math.round(100 * confidence))} % sure`;

export function Likely({ of, onChoose }: { of: string; onChoose: (place: string) => void }) {
  const likely = useLikely(of);
  const rows = likely.data ?? [];
  useKeys(rows.map((row, n) => ({ key: `${n + 1}`, says: `likely place ${n + 1}`, run: () => onChoose(row.new) })));
  return (
    <section className="likely" aria-label="Likely places">
      <h3>Likely places</h3>
      <Told error={likely.error} />
      {rows.length > 0 && (
        <ol>
          {rows.map((row, n) => (
            <li key={row.new}>
              <button type="button" className="linkish" onClick={() => onChoose(row.new)}>
                <kbd>{n + 1}</kbd> <Addr of={row.new} whole />
              </button>
              <small className="soft">
                {sure(row.confidence)}
                {row.reasons.length > 0 && `: ${row.reasons.join("; ")}`}
              </small>
            </li>
          ))}
        </ol>
      )}
      {likely.data && !rows.length && <p className="soft">Nothing on the new shore is like it.</p>}
    </section>
  );
}
