/** The difference of two texts by words, in one piece: what went is struck out, what came is underlined. */
import { diffWords } from "diff";
import { useMemo, useState } from "react";
import { many } from "../shell/state";

const MOST = 600_000; // characters
const AROUND = 14; // words shown before and after each difference, where only those are asked for
const LONG = 50; // words that stay as they are; fewer are not worth leaving out

/** Words that are the same in both texts; a long run of them is folded, and opens with a click. */
function Same({ text, first, last }: { text: string; first: boolean; last: boolean }) {
  const [open, setOpen] = useState(false);
  const words = useMemo(() => text.split(/(?<=\s)(?=\S)/), [text]);
  const head = first ? 0 : AROUND;
  const tail = last ? 0 : AROUND;
  if (open || words.length < LONG + head + tail) return <span>{text}</span>;
  return (
    <span>
      {words.slice(0, head).join("")}
      <button type="button" className="linkish" onClick={() => setOpen(true)}>
        … {many(words.length - head - tail, "word")} as they were …
      </button>{" "}
      {words.slice(words.length - tail).join("")}
    </span>
  );
}

/** ``folded``: what stays the same is shown only around the differences. */
export function WordDiff({ before, after, folded = false }: { before: string; after: string; folded?: boolean }) {
  const parts = useMemo(
    () => (before.length + after.length > MOST ? undefined : diffWords(before, after, { timeout: 1500 })),
    [before, after],
  );
  if (!parts)
    return (
      <p className="soft">
        These texts are too long, or too different, to compare word by word here (
        {(before.length + after.length).toLocaleString("en-GB")} characters).
      </p>
    );
  return (
    <div className="diff">
      {parts.map((part, n) =>
        part.added ? (
          <ins key={n}>{part.value}</ins>
        ) : part.removed ? (
          <del key={n}>{part.value}</del>
        ) : folded ? (
          <Same key={n} text={part.value} first={n === 0} last={n === parts.length - 1} />
        ) : (
          <span key={n}>{part.value}</span>
        ),
      )}
    </div>
  );
}
