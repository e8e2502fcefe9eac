/** Scope and manners by the question a person has; beside each line how many known addresses it speaks of. */
import { Button, TextField } from "@mui/material";
import { useEffect, useRef, useState } from "react";
import type { Schemas } from "../../api/client";
import { usePlan, useChangePlan } from "../../shell/state";
import { useUnsaved } from "../../shell/unsaved";
import { Told } from "../../shores/Told";
import { Access } from "./Access";
import { Effect } from "./Effect";
import { useLineCounts } from "./keptOutQueries";
import { hostOf, useSide } from "./queries";
import { read, write, written, type Form } from "./scopeForm";
import { Counts, Pace } from "./ScopeParts";
import { BUSY, off } from "../../shell/off";

/** What a survey could not start without, and how often it was asked for. */
export interface Missing {
  field: "" | "start" | "by";
  asked: number;
}

export function Scope({ waiting, missing }: { waiting: number; missing: Missing }) {
  const side = useSide();
  const plan = usePlan();
  const save = useChangePlan();
  const [form, setForm] = useState<Form | null>(null);
  const [from, setFrom] = useState<Schemas["PlanDocument"]>();
  const clean = from && form ? JSON.stringify(read(from.plan, side)) === JSON.stringify(form) : true;
  useEffect(() => {
    if (plan.data && (!form || (clean && from?.revision !== plan.data.revision))) {
      setForm(read(plan.data.plan, side));
      setFrom(plan.data);
    }
  }, [plan.data, form, clean, from, side]);
  useUnsaved("scope", clean ? "" : "scope and manners");
  const here = useRef<HTMLInputElement>(null);
  const there = form !== null;
  useEffect(() => {
    if (missing.asked && there) here.current?.focus();
  }, [missing, there]);
  const counts = useLineCounts(from && form ? written(from.plan, form, side) : null);
  if (!form) return <Told error={plan.error} />;
  const set = (name: keyof Form) => (e: { target: { value: string } }) => setForm({ ...form, [name]: e.target.value });
  const lacks = (name: keyof Form) => missing.field === name && !String(form[name]).trim();
  const field = (name: keyof Form, label: string, more: object = {}) => (
    <TextField
      label={label}
      value={form[name]}
      onChange={set(name)}
      error={lacks(name)}
      inputRef={missing.field === name ? here : undefined}
      {...more}
    />
  );
  const hosts = (text: string) =>
    Object.fromEntries(Object.entries(counts.data?.hosts ?? {}).filter(([name]) => text.includes(name)));
  const check = (name: "subdomains" | "needed" | "owner", label: string) => (
    <label className="check">
      <input type="checkbox" checked={form[name]} onChange={(e) => setForm({ ...form, [name]: e.target.checked })} />{" "}
      {label}
    </label>
  );
  const oneALine = { multiline: true, minRows: 1 };
  const stale = !clean && plan.data && from && plan.data.revision !== from.revision;
  return (
    <form
      className={`shores side-${side}`}
      onSubmit={(e) => {
        e.preventDefault();
        save.mutate(
          {
            text: side === "old" ? "scope and manners" : "scope and manners of the new site",
            change: (p) => write(p, form, side),
            from,
          },
          { onSuccess: (made) => (setFrom(made), setForm(read(made.plan, side))) },
        );
      }}
    >
      <section className={`shore ${side}`} style={{ flex: 1 }} aria-label="What belongs to the site">
        <h2>{side === "old" ? "What belongs to it" : "What belongs to the new site"}</h2>
        <div className="form scroll">
          {field("start", side === "old" ? "Start address" : "Start address (empty: the interim host)", {
            placeholder: side === "new" ? (plan.data?.plan.interim ?? "http://new.example") : "",
          })}
          {field("aliases", "Other names of the same host, one a line", oneALine)}
          {lacks("start") && (
            <p className="error" role="alert" style={{ margin: 0 }}>
              The survey was not started. Name where it begins, or the interim host.
            </p>
          )}
          <Counts of={hosts(form.aliases)} />
          {field("hosts", "Hosts whose pages belong to the site as well, one a line", oneALine)}
          <Counts of={hosts(form.hosts)} />
          {check("subdomains", "Pages of all hosts below this one belong to it")}
          {field("file_hosts", "Hosts that give files only, one a line", oneALine)}
          <Counts of={hosts(form.file_hosts)} />
          {field("browser", "Pages captured through a browser as well (RE2 patterns)", oneALine)}
          {check("needed", "and every page that seems to be built by its scripts")}
          <h3>What is protected</h3>
          {side === "old" && (
            <>
              <div className="two">
                {field("by", "Leave to copy given by")}
                {field("date", "on", { sx: { maxWidth: 150 } })}
              </div>
              {!form.by.trim() && (
                <p
                  className={lacks("by") ? "error" : "soft"}
                  role={lacks("by") ? "alert" : undefined}
                  style={{ margin: 0 }}
                >
                  {lacks("by") && "The survey was not started. "}
                  Without somebody's leave no survey starts; the handover names who gave it, and when.
                </p>
              )}
            </>
          )}
          <Access host={hostOf(form.start || (plan.data?.plan.interim ?? ""))} />
          {check("owner", "I act for the owner: robots rules need not be obeyed")}
        </div>
      </section>
      <section className="panel" style={{ flex: 1 }} aria-label="What is left out, and how gently">
        <h2>What is left out</h2>
        <div className="form scroll">
          {field("below", "Stay below these folders, one a line", oneALine)}
          <Counts of={counts.data?.below} />
          {field("include", "Only addresses like these (RE2 patterns)", oneALine)}
          <Counts of={counts.data?.include} />
          {field("exclude", "Never addresses like these (RE2 patterns)", oneALine)}
          <Counts of={counts.data?.exclude} />
          {field("drop", "Parameters that make no difference (sessions, campaigns)", oneALine)}
          <Counts
            of={Object.fromEntries(Object.entries(counts.data?.drop ?? {}).filter(([, n]) => n))}
            what=" spellings"
          />
          <div className="two">
            {field("depth", "Depth (empty: any)")}
            {field("max_pages", "Pages at most", { type: "number" })}
          </div>
          <h3>How gently</h3>
          <div className="two">
            {field("delay", "Seconds between requests", {
              type: "number",
              slotProps: { htmlInput: { step: 0.1, min: 0 } },
            })}
            {field("spread", "and by chance up to", {
              type: "number",
              slotProps: { htmlInput: { step: 0.1, min: 0 } },
            })}
          </div>
          <div className="two">
            {field("at_once", "At once", { type: "number", slotProps: { htmlInput: { min: 1, max: 64 } } })}
            {field("rate", "kB a second (empty: any)")}
          </div>
          {field("agent", "Name given to the server (User-Agent)")}
          <Pace form={form} waiting={waiting} />
        </div>
        <div className="pad">
          {!clean && from && <Effect plan={written(from.plan, form, side)} />}
          <Told error={save.error ?? counts.error} />
          {stale && (
            <div className="error" style={{ margin: 0 }}>
              The plan was changed elsewhere while you wrote.{" "}
              <button
                type="button"
                className="linkish"
                onClick={() => plan.data && (setForm(read(plan.data.plan, side)), setFrom(plan.data), save.reset())}
              >
                Load it as it is now
              </button>
            </div>
          )}
          <div className="acts">
            <Button type="submit" variant="contained" {...off([clean, "Nothing is changed."], [save.isPending, BUSY])}>
              Save
            </Button>
            {!clean && (
              <Button onClick={() => from && setForm(read(from.plan, side))} type="button">
                Leave it as it was
              </Button>
            )}
            {clean && save.isSuccess && <span className="soft">Saved.</span>}
          </div>
        </div>
      </section>
      {side === "old" && (
        <section className="shore new" style={{ flex: "0 1 300px" }} aria-label="Where it goes">
          <h2>Where it goes</h2>
          <div className="form scroll">
            {field("interim", "Interim host: where the new site grows, and checks go", {
              placeholder: "http://new.example",
            })}
            {field("final", "Final host: where it will live", { placeholder: "https://www.example" })}
            <p className="soft" style={{ margin: 0 }}>
              Rules and pairs hold no host. Changing the interim host changes nothing but where checks go.
            </p>
          </div>
        </section>
      )}
    </form>
  );
}
