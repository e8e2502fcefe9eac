/** What goes over how, read from the captured pages, and what is left out on purpose. */
import { Link } from "react-router";
import { count, many, useChangePlan, useCrossingId, usePlan } from "../../shell/state";
import { Told } from "../../shores/Told";
import { useFamilies, useFitness } from "./queries";
import { BUSY, off } from "../../shell/off";
import { Keys } from "./Keys";

/** What there is to carry, by family; what is unticked is set aside with its reason. */
function Families() {
  const plan = usePlan();
  const save = useChangePlan();
  const asked = useFamilies(plan.data?.revision);
  const flip = (name: string, out: boolean) =>
    save.mutate({
      text: out ? `${name} left out` : `${name} taken`,
      change: (p) =>
        void (p.leave_out = out ? [...(p.leave_out ?? []), name] : (p.leave_out ?? []).filter((n) => n !== name)),
      decide: true,
      from: plan.data,
    });
  return (
    <div className="todo" style={{ display: "block" }}>
      <b style={{ width: "auto" }}>What goes over</b>{" "}
      <span className="soft">what is unticked is set aside on purpose, and listed so</span>
      <Told error={asked.error ?? save.error ?? plan.error} />
      <div
        role="group"
        aria-label="Families"
        style={{ display: "grid", gridTemplateColumns: "1fr 1fr", gap: "2px 14px", paddingTop: 4 }}
      >
        {(asked.data ?? []).map((f) => (
          <label key={f.name} className="check">
            <input
              type="checkbox"
              checked={!f.left_out}
              {...off([save.isPending, BUSY])}
              onChange={(e) => flip(f.name, !e.target.checked)}
            />{" "}
            {f.name} <span className="soft">{count(f.count)}</span>
          </label>
        ))}
      </div>
    </div>
  );
}

export function Fitness() {
  const id = useCrossingId();
  const asked = useFitness();
  const found = asked.data;
  return (
    <section className="panel" style={{ flex: 1 }} aria-label="Fitness">
      <h2>
        Fitness <small>what goes over how, read from the captured pages</small>
      </h2>
      <Told error={asked.error} />
      <div className="scroll" tabIndex={0} role="region" aria-label="Matters">
        {found && found.matters.length > 0 && <Families />}
        {found?.matters.map((m) => (
          <div key={m.name} className="todo" style={{ display: "block" }}>
            <div style={{ display: "flex", gap: 8, alignItems: "baseline" }}>
              <b>{m.name}</b>
              <span className={`pill${m.verdict === "by itself" ? " good" : ""}`}>{m.verdict}</span>
              <span className="sp" />
              <span className="nowrap">
                {many(m.pages, "page")}
                {m.times > m.pages && <span className="soft">, {count(m.times)} in all</span>}
              </span>
            </div>
            <div className="soft">{m.says}</div>
            {m.one_by_one && <Keys />}
            {!m.one_by_one && m.examples.length > 0 && (
              <details open={m.pages <= 4}>
                <summary className="soft">
                  {m.examples.length < m.pages ? `the first ${count(m.examples.length)} pages` : "the pages"}
                </summary>
                {m.examples.map((p) => (
                  <div key={p.address}>
                    <Link className="mono" to={`/c/${id}/survey?open=${p.address}`}>
                      {p.key}
                    </Link>
                  </div>
                ))}
              </details>
            )}
          </div>
        ))}
        {found && !found.matters.length && (
          <div className="empty">
            Nothing is captured yet. After the survey every matter is named here with its pages.
          </div>
        )}
        {found && (
          <div className="todo" style={{ display: "block" }}>
            <b style={{ width: "auto" }}>Never carried</b> <span className="soft">said once; no page's fault</span>
            {found.never.map((line) => (
              <div key={line}>{line}</div>
            ))}
          </div>
        )}
      </div>
    </section>
  );
}
