/** A field as it is written: its types and ways of reading, and its values in words. */
import type { Schemas } from "../../api/client";

export type Field = NonNullable<NonNullable<Schemas["PlanDocument"]["plan"]["kinds"]>[number]["fields"]>[number];
export type Locator = Schemas["Locator"];
/** A click in a captured page, and when it was. */
export interface Picked {
  address: number;
  node: number;
  at: number;
}
export const TYPES: [Field["type"], string][] = [
  ["line", "one line of text"],
  ["passage", "plain text of several lines"],
  ["blocks", "the body, as blocks"],
  ["date", "date"],
  ["number", "number"],
  ["yes_no", "yes or no"],
  ["choice", "one of a few"],
  ["link", "link"],
  ["file", "file"],
  ["reference", "reference to another item"],
  ["list", "list"],
  ["picture", "picture"],
  ["group", "a group of repeated parts"],
];
export const WAYS: [keyof Locator, string][] = [
  ["css", "CSS selector"],
  ["xpath", "XPath"],
  ["label", "beside the label"],
  ["meta", "meta name"],
  ["address", "address pattern"],
  ["json_ld", "JSON-LD path"],
  ["record", "record (file)"],
  ["fixed", "a fixed value"],
];

export const readsBy = (locator: Locator) => {
  const way = WAYS.find(([name]) => locator[name] != null);
  return way
    ? `${way[0] === "css" ? "" : `${way[1]} `}${locator[way[0]]}${locator.attribute ? ` @${locator.attribute}` : ""}`
    : "";
};

/** The members of a group. */
export const isMembers = (value: unknown): value is Record<string, unknown>[] =>
  Array.isArray(value) && value.length > 0 && value.every((m) => typeof m === "object" && m !== null && !("src" in m));

const SIGNS: Record<string, string> = { lt: "<", gt: ">", quot: '"', "#39": "'", "#x27": "'", nbsp: " ", amp: "&" };

/** The words of a part that is written as HTML; the page's rules let no text be read as markup here. */
const plain = (text: string) =>
  /^<[a-z][^]*>$/.test(text)
    ? text
        .replace(/<[^>]*>/g, " ")
        .replace(/&(lt|gt|quot|#39|#x27|nbsp|amp);/g, (_, name: string) => SIGNS[name] ?? "")
        .replace(/\s+/g, " ")
        .trim()
    : text;

export function shown(value: unknown): string {
  if (value === null || value === undefined) return "";
  if (typeof value === "boolean") return value ? "yes" : "no";
  if (Array.isArray(value)) return value.map(shown).join(" · ");
  if (typeof value === "object") {
    const v = value as Record<string, unknown>;
    if (Array.isArray(v.nodes)) return `${v.nodes.length} part${v.nodes.length === 1 ? "" : "s"} of the page`;
    if (!("src" in v)) return Object.values(v).map(shown).filter(Boolean).join(" / ");
    return [v.src, v.alt && `“${String(v.alt)}”`].filter(Boolean).join(" ");
  }
  return plain(String(value));
}

const NAME = /^[a-z][a-z0-9_]*$/;

/** Parts of a group that have a name, and what else they need; any other type has none. */
export const partsOf = (draft: Field) =>
  draft.type === "group"
    ? (draft.parts ?? [])
        .map((part) => ({ ...part, parts: (part.parts ?? []).filter((p) => NAME.test(p.name)) }))
        .filter((part) => NAME.test(part.name) && (part.type !== "group" || (part.css && part.parts.length > 0)))
    : [];

export const usable = (draft: Field): Field => ({
  ...draft,
  parts: partsOf(draft),
  name: NAME.test(draft.name) ? draft.name : "field",
  locators: draft.locators.filter((l) => WAYS.some(([w]) => l[w])),
});

/** A locator of one way alone. */
export const locator = (way: keyof Locator, value: string): Locator =>
  ({ attribute: null, ...Object.fromEntries(WAYS.map(([name]) => [name, null])), [way]: value }) as Locator;
export const EMPTY = locator("css", "");
export const FRESH = {
  name: "",
  type: "line",
  locators: [EMPTY],
  treat: [],
  required: false,
  choices: [],
} as unknown as Field;
