/** The lines of a list that was handed over, by what became of each. */
import type { ReactNode } from "react";
import type { Schemas } from "../../api/client";
import { count } from "../../shell/state";

type LineRow = Schemas["LineRow"];

function Lines({
  title,
  lines,
  of,
  children,
}: {
  title: string;
  lines: LineRow[];
  of: number;
  children?: (line: LineRow) => ReactNode;
}) {
  if (!of) return null;
  return (
    <details open={of <= 12}>
      <summary>
        <b>{title}</b> {count(of)}
      </summary>
      <table className="plain">
        <tbody>
          {lines.map((line) => (
            <tr key={line.number}>
              <td className="n soft" style={{ width: 44 }}>
                {line.number}
              </td>
              <td className="mono" style={{ width: "52%" }}>
                {line.text}
              </td>
              <td>{children ? children(line) : line.why}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {of > lines.length && <p className="soft">and {count(of - lines.length)} more</p>}
    </details>
  );
}

interface Props {
  found: Schemas["Weighed"];
  same: Set<number>; // lines that a person said are the same as others
  onSame: (same: Set<number>) => void;
}

export function WeighedLines({ found, same, onSame }: Props) {
  const flip = (n: number) =>
    onSame(same.has(n) ? new Set([...same].filter((had) => had !== n)) : new Set(same).add(n));
  return (
    <>
      <Lines title="May be the same: you decide" lines={found.doubtful} of={found.counts.doubtful ?? 0}>
        {(line) => (
          <span>
            {line.why} apart from line {line.of}{" "}
            <button
              type="button"
              className={`chip${same.has(line.number) ? " on" : ""}`}
              aria-pressed={same.has(line.number)}
              onClick={() => flip(line.number)}
            >
              {same.has(line.number) ? "is the same" : "is another"}
            </button>
          </span>
        )}
      </Lines>
      <Lines title="Not met before" lines={found.new} of={found.counts.new ?? 0} />
      <Lines title="Repeats" lines={found.repeats} of={found.counts.repeats ?? 0}>
        {(line) => `repeats line ${line.of}: ${line.why}`}
      </Lines>
      <Lines title="Repaired" lines={found.repaired} of={found.counts.repaired ?? 0} />
      <Lines title="Outside the bounds" lines={found.outside} of={found.counts.outside ?? 0} />
      <Lines title="Cannot be read" lines={found.bad} of={found.counts.bad ?? 0} />
    </>
  );
}
