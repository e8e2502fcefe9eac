/** Fates as shape and word; the fate bar. Orange is unaccounted and nothing else. */
import type { Schemas } from "../api/client";
import { count } from "../shell/state";

export const FATES = ["stays", "moved", "merged", "retired", "set aside", "unaccounted"] as const;
export type Fate = (typeof FATES)[number];

export const MEANING: Record<Fate, string> = {
  stays: "the same path answers with the right page",
  moved: "a permanent redirect to its own new place",
  merged: "a permanent redirect to another page's place",
  retired: "410, gone on purpose",
  "set aside": "left out on purpose, with a reason",
  unaccounted: "nobody has decided, or the decision failed its check",
};
const COLOUR: Record<Fate, string> = {
  stays: "var(--stays)",
  moved: "var(--moved)",
  merged: "var(--merged)",
  retired: "var(--retired)",
  "set aside": "var(--aside)",
  unaccounted: "var(--unaccounted)",
};
const BRIGHT: Record<Fate, string> = {
  stays: "var(--good)",
  moved: "var(--teal)",
  merged: "var(--teal)",
  retired: "#a4558a",
  "set aside": "var(--soft)",
  unaccounted: "var(--orange)",
};

function Shape({ fate, colour }: { fate: Fate; colour: string }) {
  const line = {
    stroke: colour,
    strokeWidth: 1.9,
    fill: "none",
    strokeLinecap: "round",
    strokeLinejoin: "round",
  } as const;
  switch (fate) {
    case "stays":
      return <circle cx="7" cy="7" r="4.3" fill={colour} />;
    case "moved":
      return <path d="M1.5 7h10M8 3.2 11.8 7 8 10.8" {...line} />;
    case "merged":
      return <path d="M12.5 7H7M1.5 2.5 7 7M1.5 11.5 7 7" {...line} />;
    case "retired":
      return <path d="m3 3 8 8M11 3l-8 8" {...line} />;
    case "set aside":
      return <circle cx="7" cy="7" r="4.6" {...line} strokeDasharray="1.6 2.6" />;
    default:
      return (
        <g>
          <rect x="2" y="2" width="10" height="10" {...line} strokeWidth={1.4} />
          <path d="M2 8 8 2M3.5 12 12 3.5M8.5 12 12 8.5" {...line} strokeWidth={1.3} />
        </g>
      );
  }
}

export function FateMark({
  fate,
  proven,
  word,
  white,
  silent,
}: {
  fate: string;
  proven?: boolean;
  word?: boolean;
  white?: boolean;
  silent?: boolean;
}) {
  const known = (FATES as readonly string[]).includes(fate) ? (fate as Fate) : "unaccounted";
  const state = known === "unaccounted" ? "" : proven === undefined ? "" : proven ? ", proven" : ", planned";
  return (
    <span title={`${known}${state}: ${MEANING[known]}`} className="nowrap">
      <svg
        width="14"
        height="14"
        viewBox="0 0 14 14"
        role={silent || word ? undefined : "img"}
        aria-hidden={silent || word}
        aria-label={silent || word ? undefined : `${known}${state}`}
        opacity={proven === false && known !== "unaccounted" ? 0.6 : 1}
      >
        <Shape fate={known} colour={white ? "#fff" : BRIGHT[known]} />
      </svg>
      {word && <> {known}</>}
    </span>
  );
}

export const fateColour = (fate: string) =>
  COLOUR[(FATES as readonly string[]).includes(fate) ? (fate as Fate) : "unaccounted"];

/** One stacked bar of all old addresses: planned pale, proven solid. */
export function FateBar({
  account,
  small,
  chosen,
  onPick,
}: {
  account: Schemas["FateCount"][];
  small?: boolean;
  chosen?: string[];
  onPick?: (fate: Fate) => void;
}) {
  const total = account.reduce((sum, f) => sum + f.planned + f.proven, 0);
  const parts = FATES.map((fate) => {
    const found = account.find((f) => f.fate === fate);
    return { fate, planned: found?.planned ?? 0, proven: found?.proven ?? 0 };
  }).filter((p) => p.planned + p.proven > 0);
  if (!total)
    return (
      <div className="fsegs soft" style={{ alignItems: "center" }}>
        no addresses yet
      </div>
    );
  return (
    <div className="fsegs" role={onPick ? "group" : undefined} aria-label="Fates of all old addresses">
      {parts.map(({ fate, planned, proven }) => {
        const all = planned + proven;
        const says =
          fate === "unaccounted"
            ? `${count(all)} unaccounted`
            : `${count(all)} ${fate}: ${count(proven)} proven, ${count(planned)} planned`;
        const solid = fate === "unaccounted" ? 100 : (100 * proven) / all;
        const pale = solid < 50 && fate !== "unaccounted";
        const glyph = all / total > 0.05 || small;
        const inside = (
          <>
            <span
              className={`solid${fate === "unaccounted" ? " hatch" : ""}`}
              style={{ left: 0, width: `${solid}%`, backgroundColor: COLOUR[fate] }}
            />
            <span className="planned" style={{ left: `${solid}%`, right: 0, backgroundColor: COLOUR[fate] }} />
            <span className={`say${pale ? " dark" : ""}`}>
              {glyph ? <FateMark fate={fate} white={!pale} silent /> : null}
              <b>{count(all)}</b>
              <span className={all / total > 0.14 ? "" : "vh"}>{fate}</span>
              <span className="vh">
                {fate === "unaccounted" ? "" : `, ${count(proven)} proven, ${count(planned)} planned`}
              </span>
            </span>
          </>
        );
        // a thin part is as wide as its number, so that no number is cut
        const style = { flexGrow: all, flexBasis: 0, minWidth: 14 + 7 * count(all).length + (glyph ? 19 : 0) };
        return onPick ? (
          <button
            key={fate}
            className={`seg${chosen?.includes(fate) ? " on" : ""}`}
            style={style}
            title={`${says}. ${MEANING[fate]}. Click to see these.`}
            aria-pressed={chosen?.includes(fate) ?? false}
            onClick={() => onPick(fate)}
          >
            {inside}
          </button>
        ) : (
          <span key={fate} className="seg" style={{ ...style, cursor: "inherit" }} title={`${says}. ${MEANING[fate]}.`}>
            {inside}
          </span>
        );
      })}
    </div>
  );
}
