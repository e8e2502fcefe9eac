/** Open addresses by shape, equal shapes folded over folders, each to be opened. */
import { Button } from "@mui/material";
import { Link } from "react-router";
import { Go, usePlaceOf } from "../../shell/Go";
import { count, many, useLink, when } from "../../shell/state";
import { Addr } from "../../shores/Addr";
import { FateMark } from "../../shores/Fate";
import { useQuestionCounts } from "./questionQueries";
import { useRounds, type ShapeGroup } from "./queries";

interface Props {
  shown: ShapeGroup[];
  at: number;
  shape: string;
  isOpen: (group: ShapeGroup) => boolean;
  onToggle: (group: ShapeGroup) => void;
  unaccountedOnly: boolean;
  known: number;
  planned: number;
  ready: boolean;
}

export function Shapes({ shown, at, shape, isOpen, onToggle, unaccountedOnly, known, planned, ready }: Props) {
  const link = useLink();
  const place = usePlaceOf();
  const rounds = useRounds();
  const provisional = useQuestionCounts().data?.provisional ?? 0;
  const last = rounds.data?.filter((round) => round.ended).at(-1);
  return (
    <div className="scroll" tabIndex={0} role="region" aria-label="Open addresses by shape">
      {shown.map((g) => (
        <div className="grp" key={`${g.level} ${g.shape}`} style={{ paddingLeft: 14 * g.level }}>
          <div className={`head${g.shape === shape ? " on" : ""}`}>
            <button
              className="fold"
              aria-expanded={isOpen(g)}
              aria-label={`${isOpen(g) ? "close" : "open"} ${g.shape}`}
              onClick={() => onToggle(g)}
            >
              {isOpen(g) ? "▾" : "▸"}
            </button>
            <button aria-pressed={g.shape === shape} onClick={() => link.set({ shape: g.shape, at: null }, true)}>
              <Addr of={g.shape} />
              {g.folded && <small className="soft">{count(g.folders)} folders</small>}
              <em className={g.unaccounted ? "hot" : ""}>{count(unaccountedOnly ? g.unaccounted : g.count)}</em>
            </button>
          </div>
          {isOpen(g) &&
            g.rows.map((r) => (
              <button
                key={r.id}
                className={`row${r.id === at ? " on" : ""}`}
                aria-current={r.id === at ? "true" : undefined}
                onClick={() => link.set({ at: r.id, shape: null }, true)}
              >
                <FateMark fate={r.fate} proven={r.proven} />
                <Addr of={r.key} />
                {r.visits > 0 && <em>×{count(r.visits)}</em>}
              </button>
            ))}
          {isOpen(g) && !g.folded && g.rows.length < (unaccountedOnly ? g.unaccounted : g.count) && (
            <div className="soft" style={{ padding: "2px 28px" }}>
              … {count((unaccountedOnly ? g.unaccounted : g.count) - g.rows.length)} more of this shape,{" "}
              <Go to="route?tab=decisions&fate=unaccounted">in the list</Go>
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
          {known > 0 && last && last.open === 0 && (
            <p>
              {count(last.checked)} asked of <span className="mono">{last.base}</span>, {when(last.ended)}: 0 left
              {provisional > 0 && `, ${count(provisional)} of them only until the owner answers`}.
            </p>
          )}
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
