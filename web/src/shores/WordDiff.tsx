/** The difference of two texts by words, in one piece: what went is struck out, what came is underlined. */
import { diffWords } from "diff";
import { useMemo } from "react";

const MOST = 60_000;

export function WordDiff({ before, after }: { before: string; after: string }) {
  const parts = useMemo(() => (before.length + after.length > MOST ? null : diffWords(before, after, { timeout: 1500 })), [before, after]);
  if (!parts) return <p className="soft">These texts are too long to compare word by word here ({(before.length + after.length).toLocaleString("en-GB")} characters).</p>;
  return (
    <div className="diff">
      {parts.map((part, n) => (part.added ? <ins key={n}>{part.value}</ins> : part.removed ? <del key={n}>{part.value}</del> : <span key={n}>{part.value}</span>))}
    </div>
  );
}
