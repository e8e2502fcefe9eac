/** What the bounds written in a form would do to everything known, before they are saved. */
import { count, many, type Plan } from "../../shell/state";
import { Told } from "../../shores/Told";
import { useEffectOf } from "./keptOutQueries";

const sum = (counts: Record<string, number>) => Object.values(counts).reduce((a, b) => a + b, 0);
const reasons = (counts: Record<string, number>) =>
  Object.entries(counts)
    .map(([reason, n]) => `${count(n)} ${reason}`)
    .join(", ");

const Examples = ({ of }: { of: string[] }) => (
  <div className="mono soft" style={{ overflowWrap: "anywhere" }}>
    {of.map((url) => url.replace(/^https?:\/\//, "")).join("  ")}
  </div>
);

export function Effect({ plan }: { plan: Plan }) {
  const asked = useEffectOf(plan);
  if (asked.error) return <Told error={asked.error} />;
  const found = asked.data;
  if (!found) return null;
  const out = sum(found.shut_out);
  const into = sum(found.let_in);
  return (
    <div className="told" role="status" aria-label="Effect of these bounds">
      {out === 0 && into === 0 && "These bounds change nothing in what is known so far."}
      {out > 0 && (
        <div>
          Would shut out <b>{many(out, "known address", "known addresses")}</b> ({reasons(found.shut_out)}).
          {found.captured > 0 &&
            ` ${many(found.captured, "of them is", "of them are")} captured and will keep their content and their place in the account.`}
          <Examples of={found.shut_out_examples} />
        </div>
      )}
      {into > 0 && (
        <div>
          Would let in <b>{many(into, "address", "addresses")}</b> kept out so far ({reasons(found.let_in)}).
          <Examples of={found.let_in_examples} />
        </div>
      )}
    </div>
  );
}
