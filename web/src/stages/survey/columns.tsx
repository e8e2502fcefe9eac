/** The columns of the list of old addresses, and its filters. */
import type { Schemas } from "../../api/client";
import { count, size } from "../../shell/state";
import { FateMark } from "../../shores/Fate";
import type { Column } from "../../shores/LongList";
import { Addr } from "../../shores/Addr";

export type Row = Schemas["AddressRow"];

export const answer = (row: Row) =>
  row.state === "waiting" ? "wait" : row.status ? String(row.status) : row.state === "failed" ? "none" : "–";

export const COLUMNS: Column<Row>[] = [
  {
    id: "status",
    label: "answer",
    width: 58,
    look: "b",
    sort: "status",
    cell: (r) => (
      <span style={r.status >= 400 || r.state === "failed" ? { textDecoration: "underline dotted" } : undefined}>
        {answer(r)}
      </span>
    ),
  },
  {
    id: "key",
    label: "address",
    width: 190,
    grow: true,
    look: "mono",
    sort: "key",
    cell: (r) => <Addr of={r.key} title={r.url} />,
  },
  {
    id: "title",
    label: "title or target",
    width: 106,
    grow: true,
    sort: "title",
    cell: (r) => (
      <span title={r.target || r.title}>
        {r.target ? `→ ${r.target}` : r.title || (r.type === "file" ? `${r.mime} · ${size(r.bytes)}` : r.reason)}
      </span>
    ),
  },
  {
    id: "depth",
    label: "depth",
    width: 84,
    look: "num",
    sort: "depth",
    cell: (r) =>
      r.depth > 0 || r.found_by.includes("start") ? (
        r.depth
      ) : r.in_links ? (
        "–"
      ) : (
        <span className="soft">not linked</span>
      ),
  },
  {
    id: "visits",
    label: "visits",
    width: 64,
    look: "num",
    sort: "visits",
    cell: (r) => (r.visits ? count(r.visits) : ""),
  },
  {
    id: "in_links",
    label: "links in",
    width: 62,
    look: "num",
    sort: "in_links",
    off: true,
    cell: (r) => count(r.in_links),
  },
  {
    id: "words",
    label: "words",
    width: 64,
    look: "num",
    sort: "words",
    off: true,
    cell: (r) => (r.words ? count(r.words) : ""),
  },
  {
    id: "bytes",
    label: "size",
    width: 70,
    look: "num",
    sort: "bytes",
    off: true,
    cell: (r) => (r.bytes ? size(r.bytes) : ""),
  },
  { id: "mime", label: "type", width: 120, sort: "mime", off: true, cell: (r) => r.mime },
  { id: "kind", label: "kind", width: 96, sort: "kind", off: true, cell: (r) => r.kind || "–" },
  { id: "also", label: "fits as well", width: 130, sort: "also", off: true, cell: (r) => r.also },
  { id: "change", label: "change", width: 86, look: "b", sort: "change", off: true, cell: (r) => r.change },
  { id: "what", label: "what changed", width: 120, sort: "what", off: true, cell: (r) => r.what },
  { id: "found_by", label: "found by", width: 90, sort: "found_by", off: true, cell: (r) => r.found_by },
  { id: "language", label: "language", width: 70, sort: "language", off: true, cell: (r) => r.language },
  { id: "heading", label: "first heading", width: 140, sort: "heading", off: true, cell: (r) => r.heading },
  {
    id: "headings",
    label: "h1s",
    width: 46,
    look: "num",
    sort: "headings",
    off: true,
    cell: (r) => (r.type === "page" ? r.headings : ""),
  },
  { id: "description", label: "description", width: 160, sort: "description", off: true, cell: (r) => r.description },
  {
    id: "links_out",
    label: "links out",
    width: 66,
    look: "num",
    sort: "links_out",
    off: true,
    cell: (r) => (r.type === "page" ? count(r.links_out) : ""),
  },
  {
    id: "pictures",
    label: "pictures",
    width: 64,
    look: "num",
    sort: "pictures",
    off: true,
    cell: (r) => r.pictures || "",
  },
  { id: "no_alt", label: "no alt", width: 54, look: "num", sort: "no_alt", off: true, cell: (r) => r.no_alt || "" },
  { id: "forms", label: "forms", width: 52, look: "num", sort: "forms", off: true, cell: (r) => r.forms || "" },
  { id: "embeds", label: "embeds", width: 58, look: "num", sort: "embeds", off: true, cell: (r) => r.embeds || "" },
  { id: "indexing", label: "indexing", width: 100, sort: "indexing", off: true, cell: (r) => r.indexing },
  { id: "encoding", label: "encoding", width: 96, sort: "encoding", off: true, cell: (r) => r.encoding },
  {
    id: "seconds",
    label: "seconds",
    width: 64,
    look: "num",
    sort: "seconds",
    off: true,
    cell: (r) => (r.seconds ? r.seconds.toFixed(2) : ""),
  },
  {
    id: "odd",
    label: "what is odd",
    width: 170,
    sort: "odd",
    off: true,
    cell: (r) => <span title={r.odd}>{r.odd || r.reason}</span>,
  },
  { id: "decision", label: "decided", width: 90, sort: "decision", off: true, cell: (r) => r.decision || "–" },
  {
    id: "decision_target",
    label: "new address",
    width: 180,
    look: "mono",
    sort: "decision_target",
    off: true,
    cell: (r) => <Addr of={r.decision_target} />,
  },
  { id: "decision_origin", label: "by", width: 80, sort: "decision_origin", off: true, cell: (r) => r.decision_origin },
  { id: "verdict", label: "last check", width: 100, sort: "verdict", off: true, cell: (r) => r.verdict || "–" },
  {
    id: "fate",
    label: "fate",
    width: 44,
    look: "mid",
    sort: "fate",
    cell: (r) =>
      r.counted ? (
        <FateMark fate={r.fate} proven={r.proven} />
      ) : (
        <span className="soft" title={`not in the account: ${r.outside}`}>
          ·
        </span>
      ),
  },
];

/** The same columns, with others shown at first. */
const showing = (shown: string[], growing: string[]): Column<Row>[] =>
  COLUMNS.map((c) => ({ ...c, off: !shown.includes(c.id), grow: growing.includes(c.id) }));

export const DECISION_COLUMNS = showing(
  ["key", "decision_target", "decision_origin", "verdict", "visits", "fate"],
  ["key", "decision_target"],
);
export const CHANGE_COLUMNS = showing(["key", "title", "change", "what", "visits", "fate"], ["key", "title"]);
export const SORT_COLUMNS = showing(["key", "title", "kind", "words", "visits", "fate"], ["key", "title"]);
export const DOUBLE_COLUMNS = showing(["key", "title", "kind", "also", "visits", "fate"], ["key", "title", "also"]);

const ACCOUNT = ["fate", "proof", "kind", "fits", "account", "verdict", "origin", "visits"];
const decides = (id: string) => ACCOUNT.includes(id) || id.startsWith("decision") || id === "also";
/** Of the new side: nothing of the account, in which it has no part. */
export const NEW_COLUMNS = COLUMNS.filter((c) => !decides(c.id));

export const FILTERS: [string, string][] = [
  ["family", "what"],
  ["answer", "answer"],
  ["site", "host"],
  ["fate", "fate"],
  ["proof", "proof"],
  ["kind", "kind"],
  ["fits", "fits"],
  ["change", "change"],
  ["account", "account"],
  ["linked", "links"],
  ["found", "found by"],
  ["like", "alike"],
  ["odd", "oddness"],
  ["language", "language"],
  ["encoding", "encoding"],
  ["verdict", "last check"],
  ["origin", "decided by"],
];
export const NEW_FILTERS = FILTERS.filter(([id]) => !decides(id));
