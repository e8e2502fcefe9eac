/** The number of open addresses after each round, drawn. */
import type { Schemas } from "../../api/client";
import { count } from "../../shell/state";

export function RoundChart({ rounds, width = 300 }: { rounds: Schemas["RoundRow"][]; width?: number }) {
  const shown = rounds.filter((r) => r.ended).slice(-8);
  if (!shown.length) return null;
  const most = Math.max(1, ...shown.map((r) => r.open));
  const x = (n: number) => 26 + (n * (width - 52)) / Math.max(1, shown.length - 1);
  const y = (open: number) => 22 + 70 * (1 - open / most);
  return (
    <svg
      width={width}
      height={118}
      role="img"
      aria-label={`Open after each round: ${shown.map((r) => r.open).join(", ")}`}
    >
      <polyline
        points={shown.map((r, n) => `${x(n)},${y(r.open)}`).join(" ")}
        fill="none"
        stroke="var(--orange)"
        strokeWidth={2}
      />
      {shown.map((r, n) => (
        <g key={r.id}>
          <circle cx={x(n)} cy={y(r.open)} r={4} fill="var(--orange)" />
          <text x={x(n)} y={y(r.open) - 8} textAnchor="middle" fontSize={12} fontWeight={600} fill="var(--ink)">
            {count(r.open)}
          </text>
          <text x={x(n)} y={112} textAnchor="middle" fontSize={12} fill="var(--soft)">
            {shown.length <= 5 ? `round ${rounds.indexOf(r) + 1}` : rounds.indexOf(r) + 1}
          </text>
        </g>
      ))}
    </svg>
  );
}
