/** Open addresses in groups of one shape, each to be folded. */
import { Button } from "@mui/material";
import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { usePlaceOf } from "../../shell/Go";
import { count, many, useLink } from "../../shell/state";
import { Addr } from "../../shores/Addr";
import { FateMark } from "../../shores/Fate";

interface Props {
  shown: Schemas["ShapeGroup"][];
  at: number;
  closed: Set<string>;
  onClosed: (closed: Set<string>) => void;
  unaccountedOnly: boolean;
  known: number;
  planned: number;
  ready: boolean;
}

export function Shapes({ shown, at, closed, onClosed, unaccountedOnly, known, planned, ready }: Props) {
  const link = useLink();
  const place = usePlaceOf();
  return (
    <div className="scroll" tabIndex={0} role="region" aria-label="Open addresses by shape">
      {shown.map((g) => (
        <div className="grp" key={g.shape}>
          <button
            aria-expanded={!closed.has(g.shape)}
            onClick={() => {
              const made = new Set(closed);
              if (!made.delete(g.shape)) made.add(g.shape);
              onClosed(made);
            }}
          >
            <span className="soft" aria-hidden>
              {closed.has(g.shape) ? "▸" : "▾"}
            </span>
            <Addr of={g.shape} />
            <em className={g.unaccounted ? "hot" : ""}>{count(unaccountedOnly ? g.unaccounted : g.count)}</em>
          </button>
          {!closed.has(g.shape) &&
            g.rows.map((r) => (
              <button
                key={r.id}
                className={`row${r.id === at ? " on" : ""}`}
                aria-current={r.id === at ? "true" : undefined}
                onClick={() => link.set({ at: r.id }, true)}
              >
                <FateMark fate={r.fate} proven={r.proven} />
                <Addr of={r.key} />
                {r.visits > 0 && <em>×{count(r.visits)}</em>}
              </button>
            ))}
          {!closed.has(g.shape) && g.rows.length < (unaccountedOnly ? g.unaccounted : g.count) && (
            <div className="soft" style={{ padding: "2px 28px" }}>
              … {count((unaccountedOnly ? g.unaccounted : g.count) - g.rows.length)} more of this shape
            </div>
          )}
        </div>
      ))}
      {ready && !shown.length && (
        <div className="empty">
          <b>
            {!known
              ? "No old address is in the account yet."
              : planned
                ? "Nothing is unaccounted."
                : "Nothing is open."}
          </b>
          {!known
            ? "Survey the old site first."
            : planned
              ? `${many(planned, "fate is", "fates are")} planned. A check against the new host proves them.`
              : "Every old address in the account has a proven fate."}
          {!known && (
            <div className="acts">
              <Button variant="contained" component={Link} to={place("survey")}>
                To the survey
              </Button>
            </div>
          )}
        </div>
      )}
    </div>
  );
}
