/** A kind as it is written: the empty one, its first fields, its rules in words. */
import type { Schemas } from "../../api/client";
import type { Plan } from "../../shell/state";

export type Kind = Plan["kinds"] extends (infer K)[] | undefined ? K : never;
export type Rule = Schemas["SortRule"];
export type Conditions = Schemas["Conditions"];

const NOTHING: Conditions = {
  address: null,
  below: null,
  element: null,
  language: null,
  attribute: null,
  says: null,
  declares: null,
  answer: null,
  make: null,
  record: null,
};
export const EMPTY_RULE: Rule = { ...NOTHING, unless: [] };
export const EMPTY_UNLESS: Conditions = { ...NOTHING, element: "" };
export type Part = Exclude<keyof Conditions, "make">;
/** What a rule may ask: how it is put, an example, and how it is told in a few words. */
export const CONDITIONS: [Part, string, string, string][] = [
  ["below", "its path lies below", "/news/", "below"],
  ["address", "its whole address fits (RE2 pattern)", "/engines\\.aspx\\?id=\\d+", "address"],
  ["element", "it holds an element (CSS selector)", "table.data", "has"],
  ["language", "it is in a language", "de", "in"],
  ["attribute", "the element has the attribute", "data-type", "with"],
  ["says", "the element, or its attribute, says (RE2 pattern)", "^£", "saying"],
  ["declares", "it declares itself to be (JSON-LD, Open Graph)", "Article", "declared"],
  ["record", "its record is of this kind/state (RE2 pattern)", "post/draft", "a record"],
  ["answer", "a line of the server's answer fits (RE2 pattern)", "^content-type: .*xhtml", "answered with"],
];
export const EMPTY: Kind = {
  name: "",
  label: "",
  rules: [{ ...EMPTY_RULE, below: "/" }],
  items: "one",
  each: "",
  leads: false,
  fields: [],
  address: null,
  slug_from: "title",
  slugs: { script: "own", without: [], longest: 80 },
  languages: [],
};
const tidied = (rule: Conditions): Conditions => ({
  ...(Object.fromEntries(CONDITIONS.map(([part]) => [part, rule[part] || null])) as Record<Part, string | null>),
  language: rule.language?.trim().toLowerCase() || null,
  make: rule.make ?? null,
});
export const clear = (rule: Rule): Rule => ({
  ...tidied(rule),
  unless: (rule.unless ?? []).map(tidied).filter(asks),
});
/** Whether a rule asks anything. */
export const asks = (rule: Conditions) =>
  !!rule.make || CONDITIONS.some(([part]) => part !== "attribute" && part !== "says" && rule[part]);
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

const told = (rule: Conditions) => [
  ...CONDITIONS.filter(([part]) => rule[part]).map(([part, , , word]) => `${word} ${rule[part]}`),
  ...(rule.make ? [`made as ${rule.make.name}`] : []),
];

export const says = (rule: Rule) =>
  [...told(rule), ...(rule.unless ?? []).map((one) => `not (${told(one).join(" and ")})`)].join(" and ");
