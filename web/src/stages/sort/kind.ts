/** A kind as it is written: the empty one, its first fields, its rules in words. */
import type { Schemas } from "../../api/client";
import type { Plan } from "../../shell/state";

export type Kind = Plan["kinds"] extends (infer K)[] | undefined ? K : never;
export type Rule = Schemas["SortRule"];

export const EMPTY_RULE: Rule = { address: null, below: null, element: null, language: null };
export const EMPTY: Kind = {
  name: "",
  label: "",
  rules: [{ ...EMPTY_RULE, below: "/" }],
  items: "one",
  fields: [],
  address: null,
  slug_from: "title",
  languages: [],
};
export const clear = (rule: Rule): Rule => ({
  address: rule.address || null,
  below: rule.below || null,
  element: rule.element || null,
  language: rule.language?.trim().toLowerCase() || null,
});
/** Languages as somebody writes them, one after the other. */
export const languagesOf = (text: string) => [
  ...new Set(
    text
      .toLowerCase()
      .split(/[\s,;]+/)
      .filter(Boolean),
  ),
];
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

/** The kinds as they are worked with that one of the plan stands for: one a language, or itself. */
export const ofKind = <K extends { of: string }>(rows: K[], name: string) => rows.filter((row) => row.of === name);

/** Where the pages of some kinds are listed. */
export const pagesOf = (rows: { name: string }[]) =>
  rows.map((row) => `kind=${encodeURIComponent(row.name)}`).join("&");

export const says = (rule: Rule) =>
  [
    rule.below && `below ${rule.below}`,
    rule.address && `address ${rule.address}`,
    rule.element && `has ${rule.element}`,
    rule.language && `in ${rule.language}`,
  ]
    .filter(Boolean)
    .join(" and ");
