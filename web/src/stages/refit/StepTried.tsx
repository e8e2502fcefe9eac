/** What a step changes in one body, as Markdown: the lines that go and come. */
import { useDeferredValue } from "react";
import type { Schemas } from "../../api/client";
import { count, many, useLink } from "../../shell/state";
import { Addr } from "../../shores/Addr";
import { Told } from "../../shores/Told";
import { useTriedStep } from "./queries";

const LINES = { "-": "del", "+": "ins" } as const;

export function StepTried({ step, at }: { step: Schemas["Step"]; at: number | null }) {
  const link = useLink();
  const tried = useTriedStep(useDeferredValue(step), at, Number(link.get("item")) || 0);
  const made = tried.data;
  if (tried.error) return <Told error={tried.error} />;
  if (!made) return null;
  return (
    <div className="tried" role="status" aria-label="Tried on one body">
      <p className="soft">
        {made.finds || made.lines.length ? "On " : "It finds nothing on "}
        <span className="mono">
          <Addr of={made.key} />
        </span>
        {made.looked > 1 && !made.finds && `, nor on ${many(made.looked - 1, "body", "bodies")} before it`}
        {made.words !== 0 && `: ${many(made.words, "word")} taken`}
        {made.finds && !made.lines.length && !made.more && ": it changes no line of the Markdown there"}
      </p>
      {made.lines.length > 0 && (
        <pre className="sheet diff">
          {made.lines.map((line, n) => {
            const As = LINES[line.sign as keyof typeof LINES] ?? "div";
            return <As key={n}>{line.sign === "…" ? "…" : line.text || " "}</As>;
          })}
          {made.more && <div className="soft">the first {count(made.lines.length)} lines</div>}
        </pre>
      )}
    </div>
  );
}
