/** What stands beside the lines of scope and manners: how many addresses each speaks of, how long it takes. */
import { count, many } from "../../shell/state";
import type { Form } from "./scopeForm";

/** The lines of a field, each with its number of addresses; one that speaks of none is told so. */
export function Counts({ of, what = "" }: { of: Record<string, number> | undefined; what?: string }) {
  const rows = Object.entries(of ?? {});
  if (!rows.length) return null;
  return (
    <div className="counts">
      {rows.map(([line, n]) => (
        <span key={line}>
          <span className="mono">{line}</span> {n ? <b>{count(n)}</b> : "nothing known"}
          {n ? what : ""}
        </span>
      ))}
    </div>
  );
}

/** How long these manners take for what still waits: the longer of the pauses to one host and the bytes allowed. */
export function Pace({ form, waiting }: { form: Form; waiting: number }) {
  const pause = Number(form.delay) + Number(form.spread) / 2;
  if (!waiting || !(pause > 0)) return null;
  const seconds = waiting * pause;
  const says =
    seconds < 90
      ? `${Math.ceil(seconds)} s`
      : seconds < 5400
        ? `${Math.ceil(seconds / 60)} min`
        : `${(seconds / 3600).toFixed(1)} h`;
  return (
    <p className="soft" style={{ margin: 0 }}>
      At this pace the {many(waiting, "known address still waiting takes", "known addresses still waiting take")} about{" "}
      {says}, answers not counted.
    </p>
  );
}
