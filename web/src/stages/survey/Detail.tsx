/** One address: its captured view, facts, links in and out, hops; and what can be done from here. */
import { Button } from "@mui/material";
import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { client, take, type Schemas } from "../../api/client";
import { useGo } from "../../shell/Frame";
import {
  count,
  many,
  size,
  useChangePlan,
  useCrossingId,
  useLink,
  usePlan,
  useRefresh,
  useStart,
  when,
} from "../../shell/state";
import { FateMark } from "../../shores/Fate";
import { PageView } from "../../shores/PageView";
import { Told } from "../../shores/Told";
import { WordDiff } from "../../shores/WordDiff";
import { Addr } from "../../shores/Addr";

type Part = "page" | "facts" | "alike" | "in" | "out" | "captures";

const ALIKE: Record<string, string> = {
  same: "the same content",
  near: "nearly the same",
  spelling: "maybe one address",
};

function Links({ links, onOpen }: { links: Schemas["LinkRow"][]; onOpen: (id: number) => void }) {
  return (
    <div className="scroll" tabIndex={0} role="region" aria-label="Links">
      <table className="plain">
        <tbody>
          {links.map((l, n) => (
            <tr key={n}>
              <td className="mono">
                <button
                  className="linkish mono"
                  style={{ textAlign: "left", overflowWrap: "anywhere" }}
                  onClick={() => onOpen(l.id)}
                >
                  <Addr of={l.url.replace(/^https?:\/\/[^/]+/, "") || l.url} whole />
                </button>
                {l.words && (
                  <div className="soft" style={{ fontFamily: "Barlow" }}>
                    “{l.words}”
                  </div>
                )}
              </td>
              <td className="soft nowrap">{l.how}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {!links.length && <div className="empty">None.</div>}
    </div>
  );
}

/** The captures of an address, newest first, and the words that two of them differ in. */
function Captures({ address, captures }: { address: number; captures: Schemas["CaptureRow"][] }) {
  const id = useCrossingId();
  const [of, setOf] = useState(captures.length - 1);
  const later = captures[of];
  const earlier =
    captures
      .slice(0, of)
      .reverse()
      .find((c) => c.body) ?? null;
  const texts = useQuery({
    queryKey: ["capture-texts", id, address, earlier?.id, later?.id],
    enabled: !!earlier && !!later?.body && earlier.body !== later.body,
    queryFn: () =>
      take(
        client.GET("/api/crossings/{crossing}/addresses/{address}/difference", {
          params: { path: { crossing: id, address }, query: { earlier: earlier?.id ?? 0, later: later?.id ?? 0 } },
        }),
      ),
  });
  return (
    <div className="scroll" tabIndex={0} role="region" aria-label="Captures">
      {[...captures].reverse().map((c, n) => (
        <button
          key={c.id}
          className={`card${captures.length - 1 - n === of ? " on" : ""}`}
          aria-pressed={captures.length - 1 - n === of}
          onClick={() => setOf(captures.length - 1 - n)}
        >
          {when(c.at)} · {c.status} {c.body ? `· ${size(c.bytes)}` : "· nothing new kept"}{" "}
          {c.rendered && "· built in a browser"}
        </button>
      ))}
      <Told error={texts.error} />
      {earlier &&
        later &&
        (later.body === earlier.body ? (
          <p className="soft pad">The same bytes as the capture before.</p>
        ) : !later.body ? (
          <p className="soft pad">This answer brought no content; the one before stays.</p>
        ) : null)}
      {texts.data &&
        (texts.data.earlier === texts.data.later ? (
          <p className="soft pad">Every word is as it was; the markup differs.</p>
        ) : (
          <div className="pad">
            <WordDiff before={texts.data.earlier} after={texts.data.later} folded />
          </div>
        ))}
    </div>
  );
}

export function Detail({ address }: { address: number }) {
  const id = useCrossingId();
  const link = useLink();
  const go = useGo();
  const start = useStart();
  const plan = usePlan();
  const refresh = useRefresh();
  const [copied, setCopied] = useState("");
  const part = (link.get("part") || "page") as Part;
  const asked = useQuery({
    queryKey: ["address", id, address],
    queryFn: () =>
      take(
        client.GET("/api/crossings/{crossing}/addresses/{address}", { params: { path: { crossing: id, address } } }),
      ),
  });
  const again = useMutation({
    mutationFn: async () => {
      await start.mutateAsync({ kind: "lift", only: address });
      await start.mutateAsync({ kind: "refit", only: address });
    },
    onSettled: refresh,
  });
  const change = useChangePlan();
  const build = useMutation({
    mutationFn: async (key: string) => {
      const exact = `^${key.replace(/[.*+?^${}()|[\]\\]/g, "\\$&")}$`;
      await change.mutateAsync({
        text: `capture ${key} through a browser`,
        change: (made) => {
          const known = made.survey?.browser ?? [];
          made.survey = {
            ...(made.survey as Schemas["SurveySettings"]),
            browser: known.includes(exact) ? known : [...known, exact],
          };
        },
      });
      await start.mutateAsync({ kind: "survey", only: address });
    },
    onSettled: refresh,
  });
  if (asked.error)
    return (
      <section className="panel detail" style={{ flex: "0 0 330px" }}>
        <div className="pad">
          <Told error={asked.error} />
        </div>
      </section>
    );
  const a = asked.data;
  if (!a) return <section className="panel" style={{ flex: "0 0 330px" }} />;
  const facts = (a.facts ?? {}) as Record<string, unknown>;
  const interim = plan.data?.plan.interim?.replace(/\/$/, "");
  const place = a.decision_target
    ? a.decision_target.startsWith("/")
      ? interim && interim + a.decision_target
      : a.decision_target
    : "";
  const open = (other: number) => link.set({ open: other });
  const copy = () =>
    void navigator.clipboard.writeText(a.key).then(
      () => (setCopied("copied"), window.setTimeout(() => setCopied(""), 2000)),
      () => setCopied("not allowed here"),
    );
  const latest = a.captures[a.captures.length - 1];
  const rendered = latest?.rendered ?? false;
  const list = (name: string) => (Array.isArray(facts[name]) ? (facts[name] as string[]) : []);
  return (
    <section className="panel" style={{ flex: "0 0 330px" }} aria-label="Address">
      <h2 style={{ display: "block" }}>
        <span style={{ overflowWrap: "anywhere" }}>
          <Addr of={a.key} whole />
        </span>
      </h2>
      <div className="acts pad tight" style={{ paddingBottom: 8, gap: 5 }}>
        <Button variant="outlined" component="a" href={a.url} target="_blank" rel="noreferrer noopener">
          Open old
        </Button>
        {place && (
          <Button variant="outlined" component="a" href={place} target="_blank" rel="noreferrer noopener">
            Open new
          </Button>
        )}
        <Button variant="outlined" onClick={copy}>
          {copied || "Copy path"}
        </Button>
        {a.sort === "page" && a.status === 200 && (
          <Button
            variant="outlined"
            disabled={again.isPending}
            onClick={() => again.mutate()}
            title="Lift and refit this page alone"
          >
            Lift again
          </Button>
        )}
      </div>
      <Told error={again.error ?? build.error ?? change.error ?? plan.error} />
      <div className="tabs pad" role="group" aria-label="What to show of this address" style={{ paddingBottom: 6 }}>
        {(
          [
            ["page", "Captured"],
            ["facts", "Facts"],
            ...(a.alike.length ? ([["alike", `Alike ${count(a.alike.length)}`]] as [Part, string][]) : []),
            ["in", `In ${count(a.links_in.length)}`],
            ["out", `Out ${count(a.links_out.length)}`],
            ...(a.captures.length > 1
              ? ([["captures", `Captures ${count(a.captures.length)}`]] as [Part, string][])
              : []),
          ] as [Part, string][]
        ).map(([value, label]) => (
          <button
            key={value}
            className={`chip${part === value ? " on" : ""}`}
            aria-pressed={part === value}
            onClick={() => link.set({ part: value }, true)}
          >
            {label}
          </button>
        ))}
      </div>
      {part === "page" && a.preview && (
        <div className="bodyframe" style={{ flex: "1 1 200px" }}>
          {rendered && (
            <div className="acts" role="group" aria-label="Which view of it" style={{ paddingBottom: 5 }}>
              {(
                [
                  ["", "as built in a browser"],
                  ["raw", "as the server sent it"],
                ] as const
              ).map(([value, label]) => (
                <button
                  key={value}
                  className={`chip${link.get("form") === value ? " on" : ""}`}
                  aria-pressed={link.get("form") === value}
                  onClick={() => link.set({ form: value || null }, true)}
                >
                  {label}
                </button>
              ))}
            </div>
          )}
          <PageView
            key={`${address} ${latest?.id} ${link.get("form")}`}
            path={`/page/${id}/${address}/${a.preview}${rendered && link.get("form") === "raw" ? "?raw=true" : ""}`}
            title={`Captured page ${a.key}`}
            small
          />
        </div>
      )}
      {part === "alike" && (
        <div className="scroll" tabIndex={0} role="region" aria-label="Alike">
          <table className="plain">
            <tbody>
              {a.alike.map((other) => (
                <tr key={other.sort + other.id}>
                  <td>
                    <button
                      className="linkish mono"
                      style={{ textAlign: "left", overflowWrap: "anywhere" }}
                      onClick={() => open(other.id)}
                    >
                      {other.key}
                    </button>
                    <div className="soft">{other.title}</div>
                  </td>
                  <td>
                    {ALIKE[other.sort] ?? other.sort}
                    {other.why && <div className="soft">{other.why}</div>}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
      {part === "captures" && <Captures address={address} captures={a.captures} />}
      {part === "in" && <Links links={a.links_in} onOpen={open} />}
      {part === "out" && <Links links={a.links_out} onOpen={open} />}
      {(part === "facts" || part === "page") && (
        <div
          className="scroll"
          tabIndex={0}
          role="region"
          aria-label="Facts"
          style={{
            flex: part === "page" && a.preview ? "0 1 auto" : 1,
            maxHeight: part === "page" && a.preview ? 230 : undefined,
            paddingTop: 8,
          }}
        >
          <dl className="facts">
            <dt>Answer</dt>
            <dd>
              {a.status || a.state} {a.bytes ? `· ${size(a.bytes)}` : ""}{" "}
              {latest?.encoding ? `· ${latest.encoding}` : ""} {latest ? `· ${when(latest.at)}` : ""}
              {a.sort === "page" && a.status === 200 && !rendered && (
                <div>
                  <button
                    className="linkish"
                    disabled={build.isPending}
                    onClick={() => build.mutate(a.key)}
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
            <dt>Fate</dt>
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
                "not in the account"
              )}
            </dd>
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
                  {Number(facts.pictures_without_alt) > 0 &&
                    ` (${count(Number(facts.pictures_without_alt))} without alt)`}
                  {Number(facts.forms) > 0 && `, ${many(Number(facts.forms), "form")}`}
                </dd>
              </>
            )}
            <dt>Found by</dt>
            <dd>
              {a.ways.join(", ")}
              {a.visits > 0 && ` · ${many(a.visits, "visit")}`} · {many(a.in_links, "link")} in
            </dd>
            {part === "facts" &&
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
        </div>
      )}
      {a.counted && a.fate === "unaccounted" && (
        <div className="warn">
          <FateMark fate="unaccounted" /> {a.why || "Nobody has decided."}{" "}
          <button className="linkish" onClick={() => void go(`route?tab=open&at=${address}`)}>
            Route it
          </button>
        </div>
      )}
    </section>
  );
}
