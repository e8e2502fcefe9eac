/**
 * An address as people read it: decoded where that is safe, shortened in the middle so that its telling end stays, copied
 * as it is written.
 */
import { memo, type ClipboardEvent } from "react";

// never decoded: what cannot be seen, turns the direction of text, or would divide the address in another way
const HIDDEN = /\u034f|\u17b4|\u17b5|[\p{C}\p{Z}\u115f\u1160\u3164\uffa0\u2800%/?#&=+\\<>"'`|^{}]/u;
const LETTER_SETS = [
  /\p{Script=Latin}/u,
  /\p{Script=Cyrillic}/u,
  /\p{Script=Greek}/u,
  /\p{Script=Armenian}/u,
  /\p{Script=Cherokee}/u,
];

/** Letters of two scripts that look alike within one word are a trick more often than a name. */
const mixed = (word: string) => LETTER_SETS.filter((set) => set.test(word)).length > 1;

function decodedPart(part: string): string {
  if (!part.includes("%")) return part;
  const shown = part.replace(/(?:%[0-9a-f]{2})+/gi, (run) => {
    let text: string;
    try {
      text = decodeURIComponent(run);
    } catch {
      return run; // not UTF-8: as it is written
    }
    return [...text].map((sign) => (HIDDEN.test(sign) ? encodeURIComponent(sign) : sign)).join("");
  });
  return shown.split(/[-_.~]/).some(mixed) ? part : shown;
}

/** An address to be read: letters of any script, everything else as it is written. */
export const readable = (address: string) =>
  address.includes("%")
    ? address
        .split(/([/?#&=])/)
        .map(decodedPart)
        .join("")
    : address;

const LONG = 28; // signs; a narrow column of a list holds about as many
const TAIL = 22;

interface Props {
  of: string;
  whole?: boolean; // break over lines instead of leaving out the middle
  title?: string; // what is said of it beside itself
}

export const Addr = memo(function Addr({ of, whole, title = of }: Props) {
  const text = readable(of);
  const copy = (e: ClipboardEvent) => {
    const chosen = document.getSelection()?.toString() ?? "";
    if (chosen && chosen !== text) return; // a part of it: as it is shown
    e.clipboardData.setData("text/plain", of);
    e.preventDefault();
  };
  if (whole || text.length <= LONG)
    return (
      <bdi className={whole ? "addr mono" : "addr mono short"} dir="ltr" title={title} onCopy={copy}>
        <span>{text}</span>
      </bdi>
    );
  const signs = [...text];
  return (
    <bdi className="addr mono cut" dir="ltr" title={title} onCopy={copy}>
      <span>{signs.slice(0, -TAIL).join("")}</span>
      <span>
        <span>{signs.slice(-TAIL).join("")}</span>
      </span>
    </bdi>
  );
});
