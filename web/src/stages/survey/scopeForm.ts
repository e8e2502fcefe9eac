/** The scope form: what it shows of a plan, and the plan it stands for. */
import type { Schemas } from "../../api/client";
import type { Plan } from "../../shell/state";
import type { SideName } from "./queries";

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

type Bounds = Schemas["SurveySettings"];
type Manners = Schemas["Manners"];
type Site = Pick<Schemas["OldSite"], "aliases" | "hosts" | "file_hosts">;

/** What the survey of a side goes by in a plan; of the new side there may be nothing yet. */
const siteOf = (plan: Plan, side: SideName): Site | null | undefined => (side === "old" ? plan.old : plan.new);
export const boundsOf = (plan: Plan, side: SideName): Bounds | undefined =>
  (side === "old" ? plan.survey : plan.new?.survey) as Bounds | undefined;
const mannersOf = (plan: Plan, side: SideName): Manners | undefined =>
  (side === "old" ? plan.manners : plan.new?.manners) as Manners | undefined;

/** The new site of a plan, made where there is none. */
const newOf = (plan: Plan) => (plan.new ??= { start: null } as unknown as NonNullable<Plan["new"]>);

export function setBounds(plan: Plan, side: SideName, bounds: Partial<Bounds>) {
  const made = { ...boundsOf(plan, side), ...bounds } as Bounds;
  if (side === "old") plan.survey = made;
  else newOf(plan).survey = made;
}

export function read(plan: Plan, side: SideName): Form {
  const site = siteOf(plan, side);
  const bounds = boundsOf(plan, side);
  const manners = mannersOf(plan, side);
  return {
    start: (side === "old" ? plan.old.start : plan.new?.start) ?? "",
    aliases: (site?.aliases ?? []).join("\n"),
    file_hosts: (site?.file_hosts ?? []).join("\n"),
    hosts: (site?.hosts ?? []).join("\n"),
    subdomains: bounds?.subdomains ?? false,
    drop: (bounds ? (bounds.drop_parameters ?? []) : (plan.survey?.drop_parameters ?? [])).join(", "),
    browser: (bounds?.browser ?? []).join("\n"),
    needed: bounds?.browser_where_needed ?? false,
    interim: plan.interim ?? "",
    final: plan.final ?? "",
    by: plan.old.permission?.by ?? "",
    date: plan.old.permission?.date ?? "",
    delay: String(manners?.delay ?? 1),
    spread: String(manners?.spread ?? 0),
    at_once: String(manners?.at_once ?? 4),
    rate: manners?.bytes_per_second ? String(manners.bytes_per_second / 1000) : "",
    owner: manners?.robots === "owner confirmed",
    agent: manners?.agent ?? plan.manners?.agent ?? "",
    below: (bounds?.below ?? []).join("\n"),
    include: (bounds?.include ?? []).join("\n"),
    exclude: (bounds?.exclude ?? []).join("\n"),
    depth: bounds?.depth == null ? "" : String(bounds.depth),
    max_pages: String(bounds?.max_pages ?? 100000),
  };
}

export function write(plan: Plan, form: Form, side: SideName) {
  plan.old.permission = form.by.trim()
    ? {
        entered_by: "",
        entered_at: "",
        by: form.by.trim(),
        date: form.date.trim() || new Date().toISOString().slice(0, 10),
      }
    : null;
  plan.interim = form.interim.trim() || null;
  plan.final = form.final.trim() || null;
  if (side === "old") plan.old.start = form.start.trim();
  else newOf(plan).start = form.start.trim() || null; // it may be left open: then it is the interim host
  const site = side === "old" ? plan.old : newOf(plan);
  site.aliases = lines(form.aliases);
  site.file_hosts = lines(form.file_hosts);
  site.hosts = lines(form.hosts);
  const manners = {
    ...mannersOf(plan, side),
    delay: Number(form.delay),
    spread: Number(form.spread),
    bytes_per_second: form.rate.trim() ? Math.round(Number(form.rate) * 1000) : null,
    at_once: Number(form.at_once),
    robots: form.owner ? "owner confirmed" : "obey",
    agent: form.agent.trim(),
  } as Manners;
  if (side === "old") plan.manners = manners;
  else newOf(plan).manners = manners;
  setBounds(plan, side, {
    subdomains: form.subdomains,
    browser: lines(form.browser),
    browser_where_needed: form.needed,
    drop_parameters: lines(form.drop),
    below: lines(form.below),
    include: lines(form.include),
    exclude: lines(form.exclude),
    depth: form.depth.trim() ? Number(form.depth) : null,
    max_pages: Number(form.max_pages),
  });
}

/** The plan as the form would make it. */
export function written(plan: Plan, form: Form, side: SideName): Plan {
  const made = structuredClone(plan);
  write(made, form, side);
  return made;
}
