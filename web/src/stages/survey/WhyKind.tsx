/** Why a page is in a kind or in none: every rule, condition by condition. */
import { Go } from "../../shell/Go";
import { Told } from "../../shores/Told";
import { useKindsOfAddress } from "./addressQueries";

const ASKS: Record<string, string> = {
  below: "below",
  address: "address",
  element: "has",
  language: "in",
  declares: "declared",
  answer: "answered with",
  make: "made as",
  record: "a record",
  unless: "not",
};

export function WhyKind({ address }: { address: number }) {
  const asked = useKindsOfAddress(address);
  if (asked.error) return <Told error={asked.error} />;
  const rules = asked.data;
  if (!rules) return null;
  if (!rules.length)
    return (
      <p className="soft pad">
        There is no kind yet. <Go to="sort?tab=makes">See what there is</Go>
      </p>
    );
  const has = rules.find((rule) => rule.has);
  return (
    <div className="scroll pad" tabIndex={0} role="region" aria-label="Why it is in this kind">
      <p>
        {has ? (
          <>
            In the kind <b>{has.kind}</b>, the first whose rule holds.
          </>
        ) : (
          <>In no kind: of every rule something does not hold.</>
        )}
      </p>
      <ul className="why">
        {rules.map((rule) => (
          <li key={`${rule.kind} ${rule.rule}`}>
            <Go to={`sort?tab=kinds&kind=${encodeURIComponent(rule.kind)}`}>{rule.kind}</Go>
            {rule.holds && !rule.has && <span className="soft"> would also fit</span>}
            <ul>
              {rule.checks.map((check) => (
                <li key={check.condition} className={check.holds ? "holds" : "fails"}>
                  {ASKS[check.condition]} <code>{check.wanted}</code>{" "}
                  <span>{check.holds ? "holds" : check.wanted ? "does not hold" : "is not asked for"}</span>
                </li>
              ))}
            </ul>
          </li>
        ))}
      </ul>
    </div>
  );
}
