/** What says that a part of the plan is the tool's proposal, how sure it is, and why; and saying yes to it. */
import type { Schemas } from "../api/client";
import { count, many, type Plan } from "../shell/state";

type Said = Schemas["Proposed"] | null | undefined;
export type Part = "kind" | "field" | "step";

const WHY: Record<Part, (said: Schemas["Proposed"]) => string> = {
  kind: (s) =>
    !s.right
      ? `It takes what no other kind does: ${many(s.wrong ?? 0, "page")}.`
      : `Of the pages made alike its rule catches ${count(s.right)}, misses ${count(s.missed)}, and takes ${count(s.wrong)} of others.`,
  field: (s) => `Filled on ${count(s.right)} of ${many(s.right + (s.missed ?? 0), "page")} looked at.`,
  step: (s) =>
    `The same words on ${count(s.right)} of ${many(s.right + (s.wrong ?? 0), "page")} looked at that have it.`,
};

const sure = (s: Schemas["Proposed"]) =>
  Math.round((200 * s.right) / Math.max(1, 2 * s.right + (s.missed ?? 0) + (s.wrong ?? 0)));

export function Proposed({ said, part }: { said: Said; part: Part }) {
  if (!said) return null;
  return (
    <span className="proposed" title={`${WHY[part](said)} Nobody has said yes to it yet.`}>
      proposed, {sure(said)} %
    </span>
  );
}

/** How many kinds and steps nobody has said yes to. */
export const open = (plan: Plan | undefined) =>
  (plan?.kinds ?? []).filter((kind) => kind.proposed).length +
  (plan?.refit?.steps ?? []).filter((step) => step.proposed).length;

/** Say yes to a kind with its fields, or to all that is proposed. */
export function keep(plan: Plan, kind?: string) {
  for (const one of plan.kinds ?? []) {
    if (kind !== undefined && one.name !== kind) continue;
    one.proposed = null;
    for (const field of one.fields ?? []) field.proposed = null;
  }
  if (kind === undefined) for (const step of plan.refit?.steps ?? []) step.proposed = null;
}
