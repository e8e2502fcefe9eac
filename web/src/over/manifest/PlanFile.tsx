/** The plan as a file to keep or share, and parts of another plan taken over. */
import { Button, MenuItem, TextField } from "@mui/material";
import { useState } from "react";
import { useCrossings } from "../../shell/queries";
import { useCrossingId } from "../../shell/state";
import { Told } from "../../shores/Told";
import { useTakeOver } from "./queries";
import { BUSY, off } from "../../shell/off";

const PARTS = [
  ["bounds", "bounds and manners of the survey"],
  ["kinds", "kinds with their fields"],
  ["steps", "clean-up steps"],
  ["rules", "rules of the redirect map"],
  ["target", "what the new system calls things"],
  ["pairs", "pairs, in place of those here"],
  ["edits", "what was set by hand, beside what is here"],
  ["media", "roles of pictures, and how they are made anew"],
  ["files", "what was said of files, beside what is here"],
] as const;
type Part = (typeof PARTS)[number][0];

export function PlanFile() {
  const id = useCrossingId();
  const [from, setFrom] = useState<number | "file">("file");
  const [file, setFile] = useState<File | null>(null);
  const [parts, setParts] = useState<Part[]>(["kinds", "steps"]);
  const all = useCrossings();
  const others = (all.data ?? []).filter((c) => c.id !== id);
  const over = useTakeOver();
  const flip = (part: Part) =>
    setParts((had) =>
      PARTS.map(([name]) => name).filter((name) => (name === part ? !had.includes(part) : had.includes(name))),
    );
  return (
    <section className="panel" style={{ flex: "0 0 380px" }} aria-label="The plan as a file">
      <h2>
        The plan as a file <small>to keep, to share, to use again</small>
      </h2>
      <div className="form">
        <p style={{ margin: 0 }}>
          plan.yaml, pairs.csv and edits.jsonl, packed: readable, and taken by{" "}
          <span className="mono">grandferry run</span>. Passwords and keys are never in it.
        </p>
        <div className="acts">
          <Button variant="outlined" component="a" href={`/api/crossings/${id}/plan/file`} download>
            Give out the plan
          </Button>
        </div>
        <b>Take parts of another plan</b>
        <TextField
          select
          label="From"
          value={from}
          onChange={(e) => setFrom(e.target.value === "file" ? "file" : Number(e.target.value))}
        >
          <MenuItem value="file">a file</MenuItem>
          {others.map((c) => (
            <MenuItem key={c.id} value={c.id}>
              {c.name}
            </MenuItem>
          ))}
        </TextField>
        {from === "file" && (
          <Button variant="outlined" component="label">
            {file ? file.name : "Choose a plan (zip or yaml)…"}
            <input
              hidden
              type="file"
              accept=".zip,.yaml,.yml"
              aria-label="A plan"
              onChange={(e) => setFile(e.target.files?.[0] ?? null)}
            />
          </Button>
        )}
        <div role="group" aria-label="Parts">
          {PARTS.map(([name, label]) => (
            <label key={name} className="check" style={{ display: "flex" }}>
              <input type="checkbox" checked={parts.includes(name)} onChange={() => flip(name)} /> {label}
            </label>
          ))}
        </div>
        <p className="soft" style={{ margin: 0 }}>
          What stands here in these parts is replaced, as one change that can be taken back. Hosts and the leave to copy
          stay as they are.
        </p>
        <Told error={over.error ?? all.error} />
        {over.data && !over.isPending && (
          <p role="status" style={{ margin: 0 }}>
            Done: {over.data.text}.
          </p>
        )}
        <div className="acts">
          <Button
            variant="contained"
            {...off(
              [over.isPending, BUSY],
              [!parts.length, "Choose a part of the plan first."],
              [from === "file" && !file, "Choose a file first."],
            )}
            onClick={() => {
              const source = from === "file" ? file : from;
              if (source !== null) over.mutate({ from: source, parts });
            }}
          >
            Take over
          </Button>
        </div>
      </div>
    </section>
  );
}
