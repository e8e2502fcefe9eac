/** The forms in all bodies, each once: what it asks, where it posts, and whether it still waits for a person. */
import { MenuItem, TextField } from "@mui/material";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { BUSY, off } from "../../shell/off";
import { count, many, useChangePlan, useLink } from "../../shell/state";
import { Addr } from "../../shores/Addr";
import { Told } from "../../shores/Told";
import { useForms } from "./queries";

type Row = Schemas["FormRow"];
type State = Schemas["FormSaid"]["state"];

export function Forms() {
  const link = useLink();
  const forms = useForms();
  const save = useChangePlan();
  const [notes, setNotes] = useState<Record<string, string>>({});
  const say = (row: Row, state: State | "", note: string) =>
    save.mutate({
      text: state ? `form of ${row.key}: ${state}` : `form of ${row.key} waits again`,
      change: (p) => {
        const refit = (p.refit ??= { steps: [], forms: [], markdown: {} });
        const others = (refit.forms ?? []).filter((one) => one.form !== row.mark);
        refit.forms = state ? [...others, { form: row.mark, state, note: note.trim() }] : others;
      },
    });
  const left = (forms.data ?? []).filter((row) => !row.state).length;
  return (
    <section className="panel" style={{ flex: 1 }} aria-label="Forms">
      <h2>
        Forms <small>{forms.data ? `${many(left, "waits", "wait")} to be wired up in the new system` : "…"}</small>
      </h2>
      <Told error={forms.error ?? save.error} />
      <div className="scroll" tabIndex={0} role="region" aria-label="Forms of the old site">
        <table className="plain">
          <thead>
            <tr>
              <th>what it asks</th>
              <th>posts to</th>
              <th>stands on</th>
              <th style={{ width: 130 }}>it is</th>
              <th style={{ width: 220 }}>where, or why</th>
            </tr>
          </thead>
          <tbody>
            {(forms.data ?? []).map((row) => (
              <tr key={row.mark}>
                <td>
                  {row.fields
                    .filter((field) => field.sort !== "hidden" && field.sort !== "submit")
                    .map((field) => (
                      <span key={field.name} className="asks" title={field.options.join(", ")}>
                        {field.label || field.name || field.sort}
                        {field.required && "*"} <small className="soft">{field.sort}</small>
                      </span>
                    ))}
                </td>
                <td className="mono">
                  {row.method} <Addr of={row.posts_to || "the page itself"} />
                </td>
                <td>
                  <button
                    className="linkish mono"
                    onClick={() => link.set({ tab: null, item: row.example, field: null, form: "html" })}
                  >
                    <Addr of={row.key} />
                  </button>
                  {row.bodies > 1 && <div className="soft">and {count(row.bodies - 1)} more</div>}
                </td>
                <td>
                  <TextField
                    select
                    value={row.state}
                    onChange={(e) => say(row, e.target.value as State | "", notes[row.mark] ?? row.note)}
                    slotProps={{
                      select: { displayEmpty: true },
                      htmlInput: { "aria-label": `what the form of ${row.key} is` },
                    }}
                    {...off([save.isPending, BUSY])}
                  >
                    <MenuItem value="">to be wired up</MenuItem>
                    <MenuItem value="wired up">wired up</MenuItem>
                    <MenuItem value="dropped">dropped</MenuItem>
                  </TextField>
                </td>
                <td>
                  <TextField
                    value={notes[row.mark] ?? row.note}
                    placeholder={row.state === "dropped" ? "why" : "where it is now"}
                    onChange={(e) => setNotes({ ...notes, [row.mark]: e.target.value })}
                    onBlur={() => {
                      const note = notes[row.mark];
                      if (note !== undefined && row.state && note.trim() !== row.note)
                        say(row, row.state as State, note);
                    }}
                    slotProps={{ htmlInput: { "aria-label": `a word on the form of ${row.key}` } }}
                  />
                </td>
              </tr>
            ))}
          </tbody>
        </table>
        {forms.data?.length === 0 && <div className="empty">No form stands in any body.</div>}
      </div>
    </section>
  );
}
