/** A kind as it is written: the empty one, its first fields, its rules in words. */
import type { Schemas } from "../../api/client";
import type { Plan } from "../../shell/state";

export type Kind = Plan["kinds"] extends (infer K)[] | undefined ? K : never;
export type Rule = Schemas["SortRule"];

export const EMPTY: Kind = {
  name: "",
  label: "",
  rules: [{ address: null, below: "/", element: null }],
  items: "one",
  fields: [],
  address: null,
  slug_from: "title",
};
export const clear = (rule: Rule): Rule => ({
  address: rule.address || null,
  below: rule.below || null,
  element: rule.element || null,
});
export const nameOf = (label: string) =>
  label
    .toLowerCase()
    .normalize("NFKD")
    .replace(/[^a-z0-9]+/g, "_")
    .replace(/^[^a-z]+|_+$/g, "")
    .slice(0, 40);

export const START_FIELDS: NonNullable<Kind["fields"]> = [
  { name: "title", type: "line", required: true, locators: [{ css: "h1" }, { meta: "title" }], treat: [], choices: [] },
  {
    name: "body",
    type: "blocks",
    required: true,
    locators: [{ css: "main" }, { css: "article" }],
    treat: [],
    choices: [],
  },
] as unknown as NonNullable<Kind["fields"]>;

export const says = (rule: Rule) =>
  [
    rule.below && `below ${rule.below}`,
    rule.address && `address ${rule.address}`,
    rule.element && `has ${rule.element}`,
  ]
    .filter(Boolean)
    .join(" and ");
