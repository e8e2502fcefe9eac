/** Scope, manners, hosts and leave: what the survey may do, and where checks and items go. */
import { Button, TextField } from "@mui/material";
import { useEffect, useState } from "react";
import { type Schemas } from "../../api/client";
import { many, useChangePlan, usePlan, type Plan } from "../../shell/state";
import { useUnsaved } from "../../shell/unsaved";
import { Told } from "../../shores/Told";
import { Access } from "./Access";
import { Effect } from "./Effect";

const lines = (text: string) =>
  text
    .split(/[\n,]/)
    .map((l) => l.trim())
    .filter(Boolean);

interface Form {
  start: string;
  aliases: string;
  file_hosts: string;
  hosts: string;
  subdomains: boolean;
  drop: string;
  browser: string;
  needed: boolean;
  interim: string;
  final: string;
  by: string;
  date: string;
  delay: string;
  spread: string;
  at_once: string;
  rate: string;
  owner: boolean;
  agent: string;
  below: string;
  include: string;
  exclude: string;
  depth: string;
  max_pages: string;
}

const read = (plan: Plan): Form => ({
  start: plan.old.start,
  aliases: (plan.old.aliases ?? []).join("\n"),
  file_hosts: (plan.old.file_hosts ?? []).join("\n"),
  hosts: (plan.old.hosts ?? []).join("\n"),
  subdomains: plan.survey?.subdomains ?? false,
  drop: (plan.survey?.drop_parameters ?? []).join(", "),
  browser: (plan.survey?.browser ?? []).join("\n"),
  needed: plan.survey?.browser_where_needed ?? false,
  interim: plan.interim ?? "",
  final: plan.final ?? "",
  by: plan.old.permission?.by ?? "",
  date: plan.old.permission?.date ?? "",
  delay: String(plan.manners?.delay ?? 1),
  spread: String(plan.manners?.spread ?? 0),
  at_once: String(plan.manners?.at_once ?? 4),
  rate: plan.manners?.bytes_per_second ? String(plan.manners.bytes_per_second / 1000) : "",
  owner: plan.manners?.robots === "owner confirmed",
  agent: plan.manners?.agent ?? "",
  below: (plan.survey?.below ?? []).join("\n"),
  include: (plan.survey?.include ?? []).join("\n"),
  exclude: (plan.survey?.exclude ?? []).join("\n"),
  depth: plan.survey?.depth == null ? "" : String(plan.survey.depth),
  max_pages: String(plan.survey?.max_pages ?? 100000),
});

function write(plan: Plan, form: Form) {
  plan.old.start = form.start.trim();
  plan.old.aliases = lines(form.aliases);
  plan.old.file_hosts = lines(form.file_hosts);
  plan.old.hosts = lines(form.hosts);
  plan.old.permission = form.by.trim()
    ? { by: form.by.trim(), date: form.date.trim() || new Date().toISOString().slice(0, 10) }
    : null;
  plan.interim = form.interim.trim() || null;
  plan.final = form.final.trim() || null;
  plan.manners = {
    ...(plan.manners as Schemas["Manners"]),
    delay: Number(form.delay),
    spread: Number(form.spread),
    bytes_per_second: form.rate.trim() ? Math.round(Number(form.rate) * 1000) : null,
    at_once: Number(form.at_once),
    robots: form.owner ? "owner confirmed" : "obey",
    agent: form.agent.trim(),
  };
  plan.survey = {
    ...(plan.survey as Schemas["SurveySettings"]),
    subdomains: form.subdomains,
    browser: lines(form.browser),
    browser_where_needed: form.needed,
    drop_parameters: lines(form.drop),
    below: lines(form.below),
    include: lines(form.include),
    exclude: lines(form.exclude),
    depth: form.depth.trim() ? Number(form.depth) : null,
    max_pages: Number(form.max_pages),
  };
}

/** The plan as the form would make it. */
function written(plan: Plan, form: Form): Plan {
  const made = structuredClone(plan);
  write(made, form);
  return made;
}

/** How long these manners take for what still waits: the longer of the pauses to one host and the bytes allowed. */
function Pace({ form, waiting }: { form: Form; waiting: number }) {
  const pause = Number(form.delay) + Number(form.spread) / 2;
  if (!waiting || !(pause > 0)) return null;
  const seconds = waiting * pause;
  const says =
    seconds < 90
      ? `${Math.ceil(seconds)} s`
      : seconds < 5400
        ? `${Math.ceil(seconds / 60)} min`
        : `${(seconds / 3600).toFixed(1)} h`;
  return (
    <p className="soft" style={{ margin: 0 }}>
      At this pace the {many(waiting, "known address", "known addresses")} still waiting take about {says}, answers not
      counted.
    </p>
  );
}

export function Scope({ waiting }: { waiting: number }) {
  const plan = usePlan();
  const save = useChangePlan();
  const [form, setForm] = useState<Form | null>(null);
  const [from, setFrom] = useState<Schemas["PlanDocument"]>();
  const clean = from && form ? JSON.stringify(read(from.plan)) === JSON.stringify(form) : true;
  useEffect(() => {
    if (plan.data && (!form || (clean && from?.revision !== plan.data.revision))) {
      setForm(read(plan.data.plan));
      setFrom(plan.data);
    }
  }, [plan.data, form, clean, from]);
  useUnsaved("scope", clean ? "" : "scope and manners");
  if (!form) return <Told error={plan.error} />;
  const set = (name: keyof Form) => (e: { target: { value: string } }) => setForm({ ...form, [name]: e.target.value });
  const field = (name: keyof Form, label: string, more: object = {}) => (
    <TextField label={label} value={form[name]} onChange={set(name)} {...more} />
  );
  const stale = !clean && plan.data && from && plan.data.revision !== from.revision;
  return (
    <form
      className="shores"
      onSubmit={(e) => {
        e.preventDefault();
        save.mutate(
          { text: "scope and manners", change: (p) => write(p, form), from },
          { onSuccess: (made) => (setFrom(made), setForm(read(made.plan))) },
        );
      }}
    >
      <section className="shore old" style={{ flex: 1 }}>
        <h2>Old site</h2>
        <div className="form scroll">
          {field("start", "Start address")}
          <div className="two">
            {field("by", "Leave to copy given by")}
            {field("date", "on", { sx: { maxWidth: 150 } })}
          </div>
          {!form.by.trim() && (
            <p className="soft" style={{ margin: 0 }}>
              Without somebody's leave no survey starts; the handover names who gave it, and when.
            </p>
          )}
          {field("aliases", "Other names of the same host, one a line", { multiline: true, minRows: 2 })}
          {field("file_hosts", "Hosts that give files only, one a line", { multiline: true, minRows: 2 })}
          {field("hosts", "Hosts whose pages belong to the site as well, one a line", { multiline: true, minRows: 1 })}
          <label className="check">
            <input
              type="checkbox"
              checked={form.subdomains}
              onChange={(e) => setForm({ ...form, subdomains: e.target.checked })}
            />{" "}
            Pages of all hosts below this one belong to it
          </label>
          {field("below", "Stay below these folders, one a line", { multiline: true, minRows: 2 })}
          {field("include", "Only addresses like these (RE2 patterns)", { multiline: true, minRows: 2 })}
          {field("exclude", "Never addresses like these (RE2 patterns)", { multiline: true, minRows: 2 })}
          {field("browser", "Capture through a browser as well (RE2 patterns)", { multiline: true, minRows: 1 })}
          <label className="check">
            <input
              type="checkbox"
              checked={form.needed}
              onChange={(e) => setForm({ ...form, needed: e.target.checked })}
            />{" "}
            and every page that seems to be built by its scripts
          </label>
          {field("drop", "Parameters that make no difference (sessions, campaigns)", { multiline: true, minRows: 2 })}
          <Access host={form.start.replace(/^https?:\/\//, "").split("/")[0] ?? ""} />
        </div>
      </section>
      <section className="panel" style={{ flex: 1 }}>
        <h2>Manners and bounds</h2>
        <div className="form scroll">
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
          <div className="two">
            {field("depth", "Depth (empty: any)")}
            {field("max_pages", "Pages at most", { type: "number" })}
          </div>
          {field("agent", "Name given to the server (User-Agent)")}
          <label className="check">
            <input
              type="checkbox"
              checked={form.owner}
              onChange={(e) => setForm({ ...form, owner: e.target.checked })}
            />{" "}
            I act for the owner: robots rules need not be obeyed
          </label>
          {!clean && from && <Effect plan={written(from.plan, form)} />}
          <Pace form={form} waiting={waiting} />
          <Told error={save.error} />
          {stale && (
            <div className="error" style={{ margin: 0 }}>
              The plan was changed elsewhere while you wrote.{" "}
              <button
                type="button"
                className="linkish"
                onClick={() => plan.data && (setForm(read(plan.data.plan)), setFrom(plan.data), save.reset())}
              >
                Load it as it is now
              </button>
            </div>
          )}
          <div className="acts">
            <Button type="submit" variant="contained" disabled={clean || save.isPending}>
              Save
            </Button>
            {!clean && (
              <Button onClick={() => from && setForm(read(from.plan))} type="button">
                Leave it as it was
              </Button>
            )}
            {clean && save.isSuccess && <span className="soft">Saved.</span>}
          </div>
        </div>
      </section>
      <section className="shore new" style={{ flex: 1 }}>
        <h2>New site</h2>
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
    </form>
  );
}
