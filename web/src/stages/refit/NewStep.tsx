/** A new step: what it finds, and what becomes of that. */
import { Button, MenuItem, TextField } from "@mui/material";
import { useState } from "react";
import { BUSY, off } from "../../shell/off";
import { useChangePlan, useLink, usePlan, useStart } from "../../shell/state";
import { useUnsaved } from "../../shell/unsaved";
import { Told } from "../../shores/Told";
import type { Schemas } from "../../api/client";
import { StepTried } from "./StepTried";
import { ACTS, TIDY } from "./words";

type Step = Schemas["Step"];
const HALF = { flex: "1 1 40%" };

const isTidy = (act: string) => TIDY.some(([value]) => value === act);

function stepOf(name: string, finds: string, act: string, kind: string): Step {
  const kinds = kind ? [kind] : [];
  if (isTidy(act)) return { name, tidy: act as Step["tidy"], kinds, off: false };
  if (!act) return { name, remove: finds, kinds } as Step;
  const [said, box] = act.split(":");
  return { name, select: finds, act: said, box: box ?? null, kinds } as Step;
}

export function NewStep() {
  const link = useLink();
  const plan = usePlan();
  const save = useChangePlan();
  const start = useStart();
  const suggested = link.get("suggest");
  const [name, setName] = useState("");
  const [finds, setFinds] = useState("");
  const [act, setAct] = useState("");
  const [kind, setKind] = useState("");
  const [seen, setSeen] = useState("");
  const [writing, setWriting] = useState(false);
  if (suggested && suggested !== seen) {
    const [what, ...rest] = suggested.split("|");
    setSeen(suggested);
    setWriting(true);
    setAct(what ?? "");
    setFinds(rest.join("|"));
  }
  useUnsaved("step", name || (finds && !suggested.endsWith(finds)) ? "the step" : "");
  const add = () =>
    save.mutate(
      {
        text: `step “${name}” made`,
        change: (p) =>
          void ((p.refit ??= { steps: [], forms: [], markdown: {} }).steps ??= []).push(
            stepOf(name.trim(), finds.trim(), act, kind),
          ),
      },
      {
        onSuccess: () => (
          setName(""),
          setFinds(""),
          link.set({ suggest: null }, true),
          start.mutate({ kind: "refit" })
        ),
      },
    );
  if (!writing)
    return (
      <div className="pad">
        <button className="linkish" aria-expanded={false} onClick={() => setWriting(true)}>
          + step
        </button>
      </div>
    );
  const ready = !!finds.trim() || isTidy(act);
  return (
    <form
      className="form"
      style={{ flex: "0 1 auto", maxHeight: "70%", overflow: "auto" }}
      onSubmit={(e) => {
        e.preventDefault();
        if (name.trim() && ready) add();
      }}
    >
      <Told error={save.error ?? start.error} />
      <div className="two" style={{ flexWrap: "wrap" }}>
        <TextField
          sx={HALF}
          label="Name of the step"
          placeholder="share box"
          value={name}
          onChange={(e) => setName(e.target.value)}
        />
        <TextField
          sx={HALF}
          label="It finds (CSS selector)"
          placeholder=".share"
          value={isTidy(act) ? "" : finds}
          disabled={isTidy(act)}
          helperText={isTidy(act) ? "It is about every body as a whole." : ""}
          onChange={(e) => setFinds(e.target.value)}
          slotProps={{ htmlInput: { className: "mono", spellCheck: false } }}
        />
        <TextField
          select
          sx={HALF}
          label="And"
          value={act}
          onChange={(e) => setAct(e.target.value)}
          slotProps={{ select: { displayEmpty: true }, inputLabel: { shrink: true } }}
        >
          {ACTS.map(([value, says]) => (
            <MenuItem key={value} value={value}>
              {says}
            </MenuItem>
          ))}
          {TIDY.map(([value, says]) => (
            <MenuItem key={value} value={value}>
              puts bodies in order: {says}
            </MenuItem>
          ))}
        </TextField>
        <TextField
          select
          sx={HALF}
          label="In the bodies of"
          value={kind}
          onChange={(e) => setKind(e.target.value)}
          slotProps={{ select: { displayEmpty: true }, inputLabel: { shrink: true } }}
        >
          <MenuItem value="">all kinds</MenuItem>
          {(plan.data?.plan.kinds ?? []).map((one) => (
            <MenuItem key={one.name} value={one.name}>
              {one.label || one.name}
            </MenuItem>
          ))}
        </TextField>
        <Button
          type="submit"
          variant="outlined"
          {...off(
            [!name.trim(), "Give it a name first."],
            [!ready, "Write first what it finds."],
            [save.isPending, BUSY],
          )}
        >
          Add and refit
        </Button>
        <button type="button" className="linkish" aria-expanded onClick={() => setWriting(false)}>
          close
        </button>
      </div>
      {ready && <StepTried step={stepOf(name.trim() || "this step", finds.trim(), act, kind)} at={null} />}
    </form>
  );
}
