/** Steps over all bodies, in order: what each takes out, and a new one. */
import { Button, TextField } from "@mui/material";
import { useState } from "react";
import { many, useChangePlan, usePlan, useStart } from "../../shell/state";
import { useUnsaved } from "../../shell/unsaved";
import { Told } from "../../shores/Told";
import { useSteps } from "./queries";
import { BUSY, off } from "../../shell/off";
import { Go } from "../../shell/Go";
import { Proposed } from "../../shores/Proposed";

export function Steps({ suggested }: { suggested: string }) {
  const plan = usePlan();
  const save = useChangePlan();
  const start = useStart();
  const steps = useSteps();
  const [name, setName] = useState("");
  const [remove, setRemove] = useState("");
  const [seen, setSeen] = useState("");
  const [writing, setWriting] = useState(false);
  if (suggested && suggested !== seen) {
    setSeen(suggested);
    setWriting(true);
    setRemove(suggested);
  }
  useUnsaved("step", name || (remove && remove !== suggested) ? "the step" : "");
  const known = plan.data?.plan.refit?.steps ?? [];
  const add = () =>
    save.mutate(
      {
        text: `step “${name}” made`,
        change: (p) =>
          void ((p.refit ??= { steps: [] }).steps ??= []).push({ name: name.trim(), remove: remove.trim() }),
      },
      { onSuccess: () => (setName(""), setRemove(""), start.mutate({ kind: "refit" })) },
    );
  const drop = (n: number) =>
    save.mutate(
      { text: `step “${known[n]?.name}” removed`, change: (p) => void p.refit?.steps?.splice(n, 1) },
      { onSuccess: () => start.mutate({ kind: "refit" }) },
    );
  return (
    <section className="panel" style={{ flex: 1 }} aria-label="Steps">
      <h2>
        Steps, in order <small>what is taken out of all bodies, by name</small>
        <span className="sp" />
        <button className="linkish" aria-expanded={writing} onClick={() => setWriting(!writing)}>
          {writing ? "close" : "+ step"}
        </button>
      </h2>
      <Told error={steps.error ?? plan.error} />
      <div className="scroll">
        <table className="plain">
          <tbody>
            {(steps.data ?? []).map((step, n) => (
              <tr key={step.name + n}>
                <td className="n soft">{n + 1}</td>
                <td>
                  <b>{step.name}</b> <span className="mono soft">{step.remove}</span>{" "}
                  <Proposed said={known[n]?.proposed} part="step" />
                </td>
                <td className="n soft">
                  <Go to={`refit?tab=shared&step=${n + 1}`}>on {many(step.on, "page")}</Go>
                  {step.words > 0 && `, ${many(step.words, "word")}`}
                </td>
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
          <div className="empty">
            No step yet. What stands on every page and belongs to none (share boxes, cookie bars) is taken out here by
            name.
          </div>
        )}
      </div>
      {writing && (
        <form
          className="form"
          onSubmit={(e) => {
            e.preventDefault();
            if (name.trim() && remove.trim()) add();
          }}
        >
          <Told error={save.error ?? start.error} />
          <div className="two">
            <TextField
              label="Name of the step"
              placeholder="share box"
              value={name}
              onChange={(e) => setName(e.target.value)}
            />
            <TextField
              label="Take out (CSS selector)"
              placeholder=".share"
              value={remove}
              onChange={(e) => setRemove(e.target.value)}
              slotProps={{ htmlInput: { className: "mono", spellCheck: false } }}
            />
            <Button
              type="submit"
              variant="outlined"
              {...off(
                [!name.trim(), "Give it a name first."],
                [!remove.trim(), "Write first what it removes."],
                [save.isPending, BUSY],
              )}
            >
              Add and refit
            </Button>
          </div>
        </form>
      )}
    </section>
  );
}
