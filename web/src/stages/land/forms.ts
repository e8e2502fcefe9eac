/** What a crossing can land in. */
import type { Schemas } from "../../api/client";

export type Form = NonNullable<Schemas["LandSettings"]["target"]>;

export const FORMS: readonly (readonly [Form, string])[] = [
  ["jsonapi", "a system, over JSON:API"],
  ["markdown", "a folder of Markdown"],
  ["json", "a folder of JSON, a file an item"],
  ["jsonl", "a folder of JSON lines, a file a kind"],
  ["html", "a folder of HTML pages"],
  ["feed", "a folder of feeds (RSS), a file a kind"],
];

export const isFolder = (form: Form): boolean => form !== "jsonapi";
