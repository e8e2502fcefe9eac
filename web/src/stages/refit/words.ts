/** What steps do, and how Markdown says what it has no mark for, in words. */
export const ACTS: [string, string][] = [
  ["", "takes it out"],
  ["unwrap", "reads it without its box"],
  ["layout", "reads it as a table that only arranges"],
  ["data", "reads it as a table of data"],
  ["callout:note", "reads it as a callout: note"],
  ["callout:tip", "reads it as a callout: tip"],
  ["callout:important", "reads it as a callout: important"],
  ["callout:warning", "reads it as a callout: warning"],
  ["callout:caution", "reads it as a callout: caution"],
  ["gallery", "reads it as a gallery"],
  ["columns", "reads it as columns"],
  ["button", "reads it as a button"],
];

/** What a step does with whole bodies. */
export const TIDY: [string, string][] = [
  ["one_h1", "one heading of the first level; others go down"],
  ["no_gaps", "no gaps between levels of headings"],
  ["untracked", "links without what counts visitors"],
  ["no_short_codes", "short codes that were never expanded are taken out"],
  ["unstyled", "raw markup without styles, classes, colours"],
];

/** What a step does with what it finds. */
export const doing = (act: string) =>
  TIDY.find(([value]) => value === act)?.[1] ??
  (ACTS.find(([value]) => value === act || value === `${act}:note`)?.[1] ?? act).replace(/^reads it/, "is read");

/** What stands in bodies, in words. */
const NAMES: Record<string, string> = {
  Anchor: "places that links lead to",
  Break: "line breaks",
  Button: "buttons",
  Callout: "callouts",
  Code: "code in a line",
  CodeBlock: "code",
  Column: "parts side by side",
  Columns: "columns",
  Definitions: "terms and what they mean",
  Disclosure: "folding sections",
  Divider: "dividers",
  Embed: "films, sounds, frames",
  Entry: "terms",
  Figure: "figures",
  FileLink: "links to documents",
  Footnotes: "footnotes",
  Form: "forms",
  FormField: "fields of forms",
  Gallery: "galleries",
  Heading: "headings",
  Link: "links",
  List: "lists",
  Note: "notes at the foot",
  NoteRef: "calls of footnotes",
  Passage: "passages in another language or direction",
  Picture: "pictures",
  Quote: "quotations",
  Row: "rows of tables",
  Shot: "pictures of galleries",
  Source: "other forms of films",
  Tab: "tabs, each",
  Table: "tables",
  Tabs: "tabs",
  Track: "captions of films",
};

export function construct(name: string): string {
  const [type = "", ...rest] = name.split(" ");
  if (type === "Styled") return `in a line: ${rest.join(" ")}`;
  if (type === "Island") return `raw ${rest.join(" ")}`;
  if (type === "RawInline") return `raw, in a line ${rest.join(" ")}`;
  return NAMES[name] ?? name;
}

export const ODD: Record<string, string> = {
  anchors: "places that links lead to",
  definitions: "terms and what they mean",
  row_headers: "headers within a table",
  spans: "cells over several columns or rows",
  cell_blocks: "lists, code, paragraphs in a cell",
  captions: "captions of tables and figures",
  sizes: "widths and heights of pictures",
  code_links: "links within code",
  folding: "folding sections",
  passages: "passages in another language or direction",
  embeds: "films, sounds, frames",
  callouts: "callouts",
  tabs: "tabs",
  columns: "columns",
  galleries: "galleries",
  buttons: "buttons",
  footnotes: "footnotes",
  forms: "forms",
  islands: "raw islands",
  marks: "marks in a line: sub, sup, kbd, underline …",
};

export const CHOICES: Record<string, string> = {
  plain: "plain marks",
  html: "HTML tags",
  marked: "a dialect's mark",
  report: "leave out and count",
};
