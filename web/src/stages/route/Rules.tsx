/** Rules with their states (written, handed over, seen working), what is set aside, and the try-box. */
import { useState } from "react";
import { useKeys } from "../../shell/keys";
import { count, useChangePlan, usePlan, when } from "../../shell/state";
import { Empty, Told } from "../../shores/Told";
import { useRules, type Rule } from "./queries";
import { RuleForm } from "./RuleForm";
import { SetAside } from "./SetAside";
import { Sound } from "./Sound";
import { Spelt } from "./Spelt";
import { TryBox } from "./TryBox";
import { leaving } from "../../shell/unsaved";

const FRESH: Rule = { old: "", new: "", match: "prefix", status: 301, reason: "" };

export function Rules() {
  const plan = usePlan();
  const save = useChangePlan();
  const rules = useRules();
  const [edit, setEdit] = useState<number | null>(null);
  const known = plan.data?.plan.route?.rules ?? [];
  useKeys([{ key: "n", says: "new rule", run: () => leaving(() => setEdit(-1)) }]);
  return (
    <div className="shores">
      <section className="panel" style={{ flex: 1.7 }} aria-label="Rules">
        <h2>
          Rules <small>patterns first, in this order; then the longest folder</small>
          <span className="sp" />
          <button className="linkish" onClick={() => leaving(() => setEdit(-1))}>
            + rule
          </button>
        </h2>
        <Told error={rules.error ?? save.error ?? plan.error} />
        <div className="scroll" tabIndex={0} role="region" aria-label="Rules">
          {edit === -1 && <RuleForm rule={FRESH} index={-1} onDone={() => setEdit(null)} />}
          <table className="plain">
            <thead>
              <tr>
                <th />
                <th>old</th>
                <th>new</th>
                <th className="n">expected</th>
                <th className="n">visits</th>
                <th className="n">seen</th>
                <th title={rules.data?.[0]?.host}>state on the interim host</th>
                <th />
              </tr>
            </thead>
            <tbody>
              {(rules.data ?? []).map((rule, n) => (
                <tr key={rule.number}>
                  <td className="soft n">{rule.number}</td>
                  <td className="mono">
                    {rule.old}{" "}
                    <span className="soft" style={{ fontFamily: "Barlow" }}>
                      {rule.match === "prefix" ? "and all in it" : rule.match === "exact" ? "" : "pattern"}
                    </span>
                  </td>
                  <td className="mono">{rule.status === 410 ? "gone (410)" : rule.new}</td>
                  <td className="n">{count(rule.expected)}</td>
                  <td className="n">{rule.visits > 0 && count(rule.visits)}</td>
                  <td className="n">{count(rule.measured)}</td>
                  <td>
                    <span
                      className={`pill${rule.state === "seen working" ? " good" : ""}`}
                      title={rule.handed_at ? `handed over for ${rule.server}, ${when(rule.handed_at)}` : undefined}
                    >
                      {rule.state}
                    </span>
                    {rule.state !== "seen working" && <div className="soft">not seen yet</div>}
                    {rule.others.length > 0 && rule.measured > 0 && (
                      <details>
                        <summary>{count(rule.expected - rule.measured)} answered otherwise</summary>
                        {rule.others.slice(0, 12).map((o) => (
                          <div key={o.key} className="soft">
                            <span className="mono">{o.key}</span> {o.answer}
                          </div>
                        ))}
                      </details>
                    )}
                  </td>
                  <td className="n">
                    <button className="linkish" onClick={() => leaving(() => setEdit(n))}>
                      edit
                    </button>{" "}
                    <button
                      className="linkish"
                      onClick={() =>
                        save.mutate({
                          text: `rule ${rule.old} removed`,
                          decide: true,
                          change: (p) => void p.route?.rules?.splice(n, 1),
                        })
                      }
                    >
                      remove
                    </button>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          {edit !== null && edit >= 0 && known[edit] && (
            <>
              <Spelt
                key={`spelt ${edit}`}
                number={edit + 1}
                expected={rules.data?.[edit]?.expected ?? 0}
                onDone={() => setEdit(null)}
              />
              <RuleForm key={edit} rule={known[edit] as Rule} index={edit} onDone={() => setEdit(null)} />
            </>
          )}
          {rules.data?.length === 0 && edit === null && (
            <Empty title="There is no rule yet." action="Write a rule" onAction={() => setEdit(-1)}>
              One rule can settle a whole folder. What it would catch is shown before it is saved.
            </Empty>
          )}
        </div>
      </section>
      <div style={{ flex: 1, display: "flex", flexDirection: "column", gap: 10, minWidth: 0 }}>
        <Sound />
        <section className="panel" aria-label="Try-box">
          <h2>
            Try-box <small>what the map answers</small>
          </h2>
          <TryBox />
        </section>
        <SetAside />
      </div>
    </div>
  );
}
