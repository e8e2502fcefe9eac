/** One address: its captured view, facts, links in and out, hops; and what can be done from here. */
import { Button } from "@mui/material";
import { useState } from "react";
import { Go } from "../../shell/Go";
import { count, useCrossingId, useLink, usePlan } from "../../shell/state";
import { Addr } from "../../shores/Addr";
import { FateMark } from "../../shores/Fate";
import { PageView } from "../../shores/PageView";
import { Told } from "../../shores/Told";
import { AddressFacts } from "./AddressFacts";
import { Captures } from "./Captures";
import { Alike, Links } from "./Neighbours";
import { WhyKind } from "./WhyKind";
import { useAddress, useLiftAgain, useThroughBrowser } from "./addressQueries";
import { useSide } from "./queries";
import { BUSY, off } from "../../shell/off";

type Part = "page" | "facts" | "kinds" | "alike" | "in" | "out" | "captures";

export function Detail({ address }: { address: number }) {
  const id = useCrossingId();
  const link = useLink();
  const plan = usePlan();
  const side = useSide();
  const [copied, setCopied] = useState("");
  const part = (link.get("part") || "page") as Part;
  const asked = useAddress(address);
  const again = useLiftAgain(address);
  const build = useThroughBrowser(address);
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
  return (
    <section className="panel" style={{ flex: "0 0 330px" }} aria-label="Address">
      <h2 style={{ display: "block" }}>
        <span style={{ overflowWrap: "anywhere" }}>
          <Addr of={a.key} whole />
        </span>
      </h2>
      <div className="acts pad tight" style={{ paddingBottom: 8, gap: 5 }}>
        <Button variant="outlined" component="a" href={a.url} target="_blank" rel="noreferrer noopener">
          {side === "old" ? "Open old" : "Open"}
        </Button>
        {place && (
          <Button variant="outlined" component="a" href={place} target="_blank" rel="noreferrer noopener">
            Open new
          </Button>
        )}
        <Button variant="outlined" onClick={copy}>
          {copied || "Copy path"}
        </Button>
        {side === "old" && a.type === "page" && a.status === 200 && (
          <Button
            variant="outlined"
            {...off([again.isPending, BUSY])}
            onClick={() => again.mutate()}
            title="Lift and refit this page alone"
          >
            Lift again
          </Button>
        )}
      </div>
      <Told error={again.error ?? build.error ?? plan.error} />
      <div className="tabs pad" role="group" aria-label="What to show of this address" style={{ paddingBottom: 6 }}>
        {(
          [
            ["page", "Captured"],
            ["facts", "Facts"],
            ...(side === "old" && a.type === "page" && a.status === 200
              ? ([["kinds", "Kind"]] as [Part, string][])
              : []),
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
      {part === "kinds" && <WhyKind address={address} />}
      {part === "alike" && <Alike rows={a.alike} onOpen={open} />}
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
          <AddressFacts of={a} all={part === "facts"} build={build} />
        </div>
      )}
      {a.counted && a.fate === "unaccounted" && (
        <div className="warn">
          <FateMark fate="unaccounted" /> {a.why || "Nobody has decided."}{" "}
          <Go to={`route?tab=open&at=${address}`}>Route it</Go>
        </div>
      )}
    </section>
  );
}
