/** The scope form: what it shows of a plan, and the plan it stands for. */
import type { Schemas } from "../../api/client";
import type { Plan } from "../../shell/state";

const lines = (text: string) =>
  text
    .split(/[\n,]/)
    .map((l) => l.trim())
    .filter(Boolean);

export interface Form {
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

export const read = (plan: Plan): Form => ({
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

export function write(plan: Plan, form: Form) {
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
export function written(plan: Plan, form: Form): Plan {
  const made = structuredClone(plan);
  write(made, form);
  return made;
}
