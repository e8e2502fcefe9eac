/** Steps over all bodies, in order: what each takes out or says of an element, and what one takes of all pages. */
import { useKeys } from "../../shell/keys";
import { BUSY, off } from "../../shell/off";
import { count, many, useChangePlan, useLink, usePlan, useStart } from "../../shell/state";
import { Proposed } from "../../shores/Proposed";
import { Empty, Told } from "../../shores/Told";
import { NewStep } from "./NewStep";
import { Part } from "./Part";
import { StepTried } from "./StepTried";
import { useSteps } from "./queries";
import { doing } from "./words";

export function Steps() {
  const link = useLink();
  const plan = usePlan();
  const save = useChangePlan();
  const start = useStart();
  const steps = useSteps();
  const rows = steps.data ?? [];
  const at = Math.min(Math.max(Number(link.get("step") || 1) - 1, 0), Math.max(rows.length - 1, 0));
  const open = (n: number) => rows[n] && link.set({ step: n + 1, page: null }, true);
  const known = plan.data?.plan.refit?.steps ?? [];
  const refit = { onSuccess: () => start.mutate({ kind: "refit" }) };
  const drop = (n: number) =>
    save.mutate({ text: `step “${known[n]?.name}” removed`, change: (p) => void p.refit?.steps?.splice(n, 1) }, refit);
  const turn = (n: number) =>
    save.mutate(
      {
        text: `step “${known[n]?.name}” ${known[n]?.off ? "on" : "off"}`,
        change: (p) => {
          const step = p.refit?.steps?.[n];
          if (step) step.off = !step.off;
        },
      },
      refit,
    );
  const move = (n: number, by: number) => {
    if (!known[n + by] || save.isPending) return;
    save.mutate(
      {
        text: `step “${known[n]?.name}” is done as the ${n + by + 1}.`,
        change: (p) => {
          const [step] = p.refit?.steps?.splice(n, 1) ?? [];
          if (step) p.refit?.steps?.splice(n + by, 0, step);
        },
      },
      { onSuccess: () => (link.set({ step: n + by + 1 }, true), start.mutate({ kind: "refit" })) },
    );
  };
  useKeys([
    { key: "j", says: "next step", run: () => open(at + 1) },
    { key: "k", says: "previous step", run: () => open(at - 1) },
    { key: "[", says: "do this step earlier", run: () => move(at, -1) },
    { key: "]", says: "do this step later", run: () => move(at, 1) },
  ]);
  const chosen = rows[at];
  return (
    <div className="shores" style={{ flex: 1 }}>
      <section className="panel" style={{ flex: 1.1 }} aria-label="Steps">
        <h2>
          Steps, in order <small>over all bodies</small>
          <span className="sp" />
          <span className="soft" style={{ fontWeight: 400 }}>
            <kbd>K</kbd> <kbd>J</kbd> · earlier <kbd>[</kbd> later <kbd>]</kbd>
          </span>
        </h2>
        <Told error={steps.error ?? plan.error ?? save.error ?? start.error} />
        <div className="scroll">
          <table className="plain">
            <thead>
              <tr>
                <th className="n">on</th>
                <th>step</th>
                <th className="n">on pages</th>
                <th className="n">words</th>
                <th />
              </tr>
            </thead>
            <tbody>
              {rows.map((step, n) => (
                <tr key={step.name + n} className={n === at ? "on" : ""}>
                  <td className="n">
                    <input
                      type="checkbox"
                      aria-label={`do the step ${step.name}`}
                      checked={!step.off}
                      onChange={() => turn(n)}
                      {...off([save.isPending, BUSY])}
                    />
                  </td>
                  <td>
                    <button className="linkish" aria-pressed={n === at} onClick={() => open(n)}>
                      <b>{step.name}</b>
                    </button>{" "}
                    <span className="soft">· {doing(step.act)}</span> <span className="mono soft">{step.finds}</span>{" "}
                    {step.kinds.length > 0 && <span className="soft">of {step.kinds.join(", ")} alone </span>}
                    <Proposed said={known[n]?.proposed} part="step" />
                  </td>
                  <td className={step.on || step.off ? "n" : "n state odd"}>
                    {step.off ? "off" : step.on ? `${count(step.on)} of ${count(step.of)}` : "finds nothing"}
                    {step.places > step.on && `, ${many(step.places, "place")}`}
                  </td>
                  <td className="n">{step.words ? count(step.words) : ""}</td>
                  <td className="n">
                    <button className="linkish" onClick={() => drop(n)} {...off([save.isPending, BUSY])}>
                      remove
                    </button>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          {steps.data?.length === 0 && (
            <Empty title="No step yet.">
              What stands on every page and belongs to none (share boxes, cookie bars) is taken out here by name; what
              only this site does is said to be what it is.
            </Empty>
          )}
        </div>
        <NewStep />
      </section>
      {chosen && !chosen.act && <Part key={at} place={at} />}
      {chosen?.act && (
        <section className="shore old" style={{ flex: 1.5 }} aria-label="What it does">
          <h2>{chosen.name}</h2>
          <div className="pad">
            {chosen.on ? (
              <p>
                {chosen.finds ? (
                  <>
                    What <span className="mono">{chosen.finds}</span> finds {doing(chosen.act)}
                  </>
                ) : (
                  <>Bodies are put in order: {doing(chosen.act)}</>
                )}
                : {many(chosen.places, "place")} on {many(chosen.on, "page")}.
              </p>
            ) : (
              <p className="state odd">
                {chosen.finds ? <span className="mono">{chosen.finds}</span> : "It"} finds nothing on any page with a
                body
                {chosen.off ? ", since it is off" : ""}.
              </p>
            )}
          </div>
          {known[at] && <StepTried step={{ ...known[at], off: false }} at={at} />}
        </section>
      )}
    </div>
  );
}
