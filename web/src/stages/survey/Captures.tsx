/** The captures of an address, and what two of them differ in. */
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { size, when } from "../../shell/state";
import { Told } from "../../shores/Told";
import { WordDiff } from "../../shores/WordDiff";
import { useCaptureTexts } from "./addressQueries";

/** The captures of an address, newest first, and the words that two of them differ in. */
export function Captures({ address, captures }: { address: number; captures: Schemas["CaptureRow"][] }) {
  const [of, setOf] = useState(captures.length - 1);
  const later = captures[of];
  const earlier =
    captures
      .slice(0, of)
      .reverse()
      .find((c) => c.body) ?? null;
  const texts = useCaptureTexts(address, earlier ?? undefined, later);
  return (
    <div className="scroll" tabIndex={0} role="region" aria-label="Captures">
      {[...captures].reverse().map((c, n) => (
        <button
          key={c.id}
          className={`card${captures.length - 1 - n === of ? " on" : ""}`}
          aria-pressed={captures.length - 1 - n === of}
          onClick={() => setOf(captures.length - 1 - n)}
        >
          {when(c.at)} · {c.status} {c.body ? `· ${size(c.bytes)}` : "· nothing new kept"}{" "}
          {c.rendered && "· built in a browser"}
        </button>
      ))}
      <Told error={texts.error} />
      {earlier &&
        later &&
        (later.body === earlier.body ? (
          <p className="soft pad">The same bytes as the capture before.</p>
        ) : !later.body ? (
          <p className="soft pad">This answer brought no content; the one before stays.</p>
        ) : null)}
      {texts.data &&
        (texts.data.earlier === texts.data.later ? (
          <p className="soft pad">Every word is as it was; the markup differs.</p>
        ) : (
          <div className="pad">
            <WordDiff before={texts.data.earlier} after={texts.data.later} folded />
          </div>
        ))}
    </div>
  );
}
