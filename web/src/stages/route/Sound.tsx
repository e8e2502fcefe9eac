/** What is wrong with the rules, before anything is written: each with what mends it. */
import { Button } from "@mui/material";
import type { Schemas } from "../../api/client";
import { BUSY, off } from "../../shell/off";
import { count, many, useChangePlan } from "../../shell/state";
import { Addr } from "../../shores/Addr";
import { Told } from "../../shores/Told";
import { useSound } from "./queries";

type Unsound = Schemas["UnsoundRow"];

const MENDS: Record<Unsound["mend"], string> = {
  "": "",
  out: "Take it out",
  before: "Put it first",
  straight: "Lead straight there",
};

export function Sound() {
  const sound = useSound();
  const save = useChangePlan();
  const rows = sound.data ?? [];
  const mend = (row: Unsound) =>
    save.mutate({
      text: `rule ${row.number}: ${MENDS[row.mend].toLowerCase()}`,
      decide: true,
      change: (plan) => {
        const rules = plan.route?.rules ?? [];
        const at = row.number - 1;
        if (row.mend === "straight" && rules[at]) rules[at].new = row.to;
        else {
          const [rule] = rules.splice(at, 1);
          if (row.mend === "before" && rule) rules.splice(row.other - 1, 0, rule);
        }
      },
    });
  return (
    <section className="panel" aria-label="Soundness" style={{ minHeight: 96 }}>
      <h2>
        Soundness <small>before anything is written</small>
      </h2>
      <Told error={sound.error ?? save.error} />
      <div className="pad scroll" tabIndex={0} role="region" aria-label="What is wrong with the rules">
        {sound.data && !rows.length && <span className="soft">Every rule is reached, and leads to what is there.</span>}
        {rows.map((row) => (
          <div key={`${row.fault} ${row.number}`} className="found">
            <b>{row.number ? `Rule ${row.number}` : "The whole"}</b>{" "}
            <span className={row.fault === "nothing" ? "soft" : ""}>{row.text}</span>{" "}
            {row.examples.length > 0 && (
              <details>
                <summary>
                  {row.count > row.examples.length
                    ? `${count(row.examples.length)} of ${count(row.count)}`
                    : many(row.count, "address", "addresses")}
                </summary>
                {row.examples.map((key) => (
                  <div key={key}>
                    <Addr of={key} />
                  </div>
                ))}
              </details>
            )}
            {row.mend && (
              <Button size="small" variant="outlined" onClick={() => mend(row)} {...off([save.isPending, BUSY])}>
                {MENDS[row.mend]}
              </Button>
            )}
          </div>
        ))}
      </div>
    </section>
  );
}
