/** A make, drawn: what its pages hold one below the other; pale is what all pages of the site share. */
import type { Schemas } from "../../api/client";

type Drawing = Schemas["Drawing"];
const SAYS: Record<string, string> = {
  heading: "heading",
  text: "text",
  list: "list",
  table: "table",
  picture: "picture",
  form: "form",
  media: "film or frame",
};

/** What a drawing shows of the group's own, in words. */
export function inWords(drawing: Drawing): string {
  const found: string[] = [];
  const go = (one: Drawing) => {
    if (one.parts?.length) one.parts.forEach(go);
    else if (one.own && SAYS[one.what] && found.at(-1) !== SAYS[one.what]) found.push(SAYS[one.what]!);
  };
  go(drawing);
  return found.slice(0, 8).join(", ") || "what all pages share";
}

function Part({ one }: { one: Drawing }) {
  const parts = one.parts ?? [];
  const look = `mk m-${one.what}${one.own ? " own" : ""}`;
  if (parts.length)
    return (
      <span className={look}>
        {parts.map((part, n) => (
          <Part key={n} one={part} />
        ))}
      </span>
    );
  const lines = one.what === "list" || one.what === "table" ? 3 : 1;
  return (
    <>
      {Array.from({ length: Math.min(one.times ?? 1, 4) }, (_, n) => (
        <span key={n} className={look}>
          {lines > 1 && Array.from({ length: lines }, (_, m) => <i key={m} />)}
        </span>
      ))}
    </>
  );
}

export function Miniature({ drawing }: { drawing: Drawing }) {
  return (
    <span className="miniature" role="img" aria-label={`drawn: ${inWords(drawing)}`}>
      {(drawing.parts ?? []).map((part, n) => (
        <Part key={n} one={part} />
      ))}
    </span>
  );
}
