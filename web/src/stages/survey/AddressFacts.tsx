/** What is known of an address: its answer, its fate, and what its page says. */
import type { Schemas } from "../../api/client";
import { count, many, size, when } from "../../shell/state";
import { Addr } from "../../shores/Addr";
import { FateMark } from "../../shores/Fate";
import type { useThroughBrowser } from "./addressQueries";
import { useSide } from "./queries";
import { BUSY, off } from "../../shell/off";

interface Props {
  of: Schemas["AddressDetail"];
  all: boolean; // else only what matters beside the page itself
  build: ReturnType<typeof useThroughBrowser>;
}

/** Why an address is in no account, in words. */
const OUTSIDE: Record<string, string> = {
  "dead link": "a dead link that nobody asks for",
  "on another host": "it lies on another host, for which the new one cannot answer",
  "not asked yet": "nobody has asked for it yet",
};

export function AddressFacts({ of: a, all, build }: Props) {
  const side = useSide();
  const facts = (a.facts ?? {}) as Record<string, unknown>;
  const list = (name: string) => (Array.isArray(facts[name]) ? (facts[name] as string[]) : []);
  const latest = a.captures[a.captures.length - 1];
  const rendered = latest?.rendered ?? false;
  return (
    <dl className="facts">
      <dt>Answer</dt>
      <dd>
        {a.status || a.state} {a.bytes ? `· ${size(a.bytes)}` : ""} {latest?.encoding ? `· ${latest.encoding}` : ""}{" "}
        {latest ? `· ${when(latest.at)}` : ""}
        {a.type === "page" && a.status === 200 && !rendered && (
          <div>
            <button
              className="linkish"
              {...off([build.isPending, BUSY])}
              onClick={() => build.mutate()}
              title="Capture this page as its scripts build it; it is asked for once more"
            >
              Capture through a browser
            </button>
          </div>
        )}
      </dd>
      {a.reason && (
        <>
          <dt>Note</dt>
          <dd>{a.reason}</dd>
        </>
      )}
      {a.target && (
        <>
          <dt>Leads to</dt>
          <dd>
            <Addr of={a.target} whole />
          </dd>
        </>
      )}
      {side === "old" && <dt>Fate</dt>}
      {side === "old" && (
        <dd>
          {a.counted ? (
            <>
              <FateMark fate={a.fate} proven={a.proven} word />{" "}
              {a.fate !== "unaccounted" && (a.proven ? "· proven" : "· planned")}{" "}
              {a.decision_target && <Addr of={a.decision_target} whole />}
              {a.decision_origin && (
                <span className="soft">
                  {" "}
                  by {a.decision_origin}
                  {a.decision_reason ? `: ${a.decision_reason}` : ""}
                </span>
              )}
            </>
          ) : (
            `not in the account: ${OUTSIDE[a.outside] ?? a.outside}`
          )}
        </dd>
      )}
      {a.title && (
        <>
          <dt>Title</dt>
          <dd>{a.title}</dd>
        </>
      )}
      {list("headings").length > 0 && (
        <>
          <dt>Heading</dt>
          <dd>{list("headings").join(" · ")}</dd>
        </>
      )}
      {a.facts && (
        <>
          <dt>Holds</dt>
          <dd>
            {many(a.words, "word")}, {many(Number(facts.links ?? 0), "link")},{" "}
            {many(Number(facts.pictures ?? 0), "picture")}
            {Number(facts.pictures_without_alt) > 0 && ` (${count(Number(facts.pictures_without_alt))} without alt)`}
            {Number(facts.forms) > 0 && `, ${many(Number(facts.forms), "form")}`}
          </dd>
        </>
      )}
      <dt>Found by</dt>
      <dd>
        {a.ways.join(", ")}
        {a.visits > 0 && ` · ${many(a.visits, "visit")}`} · {many(a.in_links, "link")} in
      </dd>
      {all &&
        [
          ["Language", facts.language],
          ["Made by", facts.generator],
          ["Canonical", facts.canonical],
          ["Description", facts.description],
        ]
          .filter(([, value]) => value)
          .map(([label, value]) => (
            <div key={String(label)} style={{ display: "contents" }}>
              <dt>{String(label)}</dt>
              <dd>{String(value)}</dd>
            </div>
          ))}
      {a.spellings.length > 0 && (
        <>
          <dt>Spellings</dt>
          <dd className="mono">{a.spellings.join(" ")}</dd>
        </>
      )}
      {a.findings.length > 0 && (
        <>
          <dt>Odd</dt>
          <dd>{a.findings.join(" · ")}</dd>
        </>
      )}
    </dl>
  );
}
