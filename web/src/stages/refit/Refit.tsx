/** Refit: old content beside new, scrolled together, lost words struck out; constructs, steps and losses. */
import { Button, TextField } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import { client, take, type Schemas } from "../../api/client";
import { useGo } from "../../shell/Frame";
import { useKeys } from "../../shell/keys";
import { count, many, share, useChangePlan, useCrossingId, useLink, usePlan, useStart } from "../../shell/state";
import { useUnsaved } from "../../shell/unsaved";
import { PageView } from "../../shores/PageView";
import { RunLine, useLive } from "../../shores/Run";
import { Tabs } from "../../shores/Tabs";
import { Empty, Told } from "../../shores/Told";
import { WordDiff } from "../../shores/WordDiff";

const FORMS = [
  ["page", "Page"],
  ["markdown", "Markdown"],
  ["html", "HTML"],
  ["blocks", "Blocks"],
  ["words", "Words"],
] as const;

interface Missing {
  text: string;
  where: string;
  why: string;
  node: number;
}

function NewSide({ body, scroll, onScroll }: { body: Schemas["BodyDetail"]; scroll: { part: number; by: number } | undefined; onScroll: (part: number) => void }) {
  const id = useCrossingId();
  const link = useLink();
  const form = link.get("form") || "page";
  return (
    <section className="shore new" aria-label="New page">
      <h2>
        New <small className="mono">{body.new_path || "no address yet"}</small>
        <span className="sp" />
        <span className="tabs" role="group" aria-label="Form">
          {FORMS.map(([value, label]) => (
            <button key={value} className={`chip${form === value ? " on" : ""}`} aria-pressed={form === value} onClick={() => link.set({ form: value }, true)}>
              {label}
            </button>
          ))}
        </span>
      </h2>
      <div className="bodyframe">
        {form === "page" && <PageView key={body.item} path={`/body/${id}/${body.item}/${body.field}/${body.new_preview}`} title={`New page ${body.title}`} scroll={scroll} onScroll={onScroll} />}
        {form === "markdown" && <pre className="sheet" tabIndex={0}>{body.markdown}</pre>}
        {form === "html" && <pre className="sheet" tabIndex={0}>{body.html}</pre>}
        {form === "blocks" && <pre className="sheet" tabIndex={0}>{JSON.stringify(body.blocks, null, 1)}</pre>}
        {form === "words" && (
          <div className="sheet" style={{ fontFamily: "inherit" }} tabIndex={0} role="region" aria-label="Words">
            <WordDiff before={body.old_text} after={body.new_text} />
          </div>
        )}
      </div>
    </section>
  );
}

function Steps({ suggested, onUsed }: { suggested: string; onUsed: () => void }) {
  const id = useCrossingId();
  const plan = usePlan();
  const save = useChangePlan();
  const start = useStart();
  const steps = useQuery({ queryKey: ["steps", id], queryFn: () => take(client.GET("/api/crossings/{crossing}/steps", { params: { path: { crossing: id } } })) });
  const [name, setName] = useState("");
  const [remove, setRemove] = useState("");
  const [seen, setSeen] = useState("");
  if (suggested && suggested !== seen) {
    setSeen(suggested);
    setRemove(suggested);
    onUsed();
  }
  useUnsaved("step", name || (remove && remove !== suggested) ? "the step" : "");
  const known = plan.data?.plan.refit?.steps ?? [];
  const add = () =>
    save.mutate(
      { text: `step “${name}” made`, change: (p) => void ((p.refit ??= { steps: [] }).steps ??= []).push({ name: name.trim(), remove: remove.trim() }) },
      { onSuccess: () => (setName(""), setRemove(""), start.mutate({ kind: "refit" })) },
    );
  const drop = (n: number) =>
    save.mutate({ text: `step “${known[n]?.name}” removed`, change: (p) => void p.refit?.steps?.splice(n, 1) }, { onSuccess: () => start.mutate({ kind: "refit" }) });
  return (
    <section className="panel" style={{ flex: 1 }} aria-label="Steps">
      <h2>
        Steps, in order <small>what is taken out of all bodies, by name</small>
      </h2>
      <div className="scroll">
        <table className="plain">
          <tbody>
            {(steps.data ?? []).map((step, n) => (
              <tr key={step.name + n}>
                <td className="n soft">{n + 1}</td>
                <td>
                  <b>{step.name}</b> <span className="mono soft">{step.remove}</span>
                </td>
                <td className="n soft">
                  {many(step.pages, "page")}, {many(step.words, "word")}
                </td>
                <td className="n">
                  <button className="linkish" onClick={() => drop(n)} disabled={save.isPending}>
                    remove
                  </button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <form
        className="form"
        onSubmit={(e) => {
          e.preventDefault();
          if (name.trim() && remove.trim()) add();
        }}
      >
        <Told error={save.error} />
        <div className="two">
          <TextField label="Name of the step" placeholder="share box" value={name} onChange={(e) => setName(e.target.value)} />
          <TextField label="Take out (CSS selector)" placeholder=".share" value={remove} onChange={(e) => setRemove(e.target.value)} slotProps={{ htmlInput: { className: "mono", spellCheck: false } }} />
          <Button type="submit" variant="outlined" disabled={!name.trim() || !remove.trim() || save.isPending}>
            Add and refit
          </Button>
        </div>
      </form>
    </section>
  );
}

export default function Refit() {
  const id = useCrossingId();
  const link = useLink();
  const go = useGo();
  const start = useStart();
  const live = useLive(["refit"]);
  const tab = link.get("tab") || "pages";
  const path = { crossing: id };
  const totals = useQuery({ queryKey: ["refit", id], queryFn: () => take(client.GET("/api/crossings/{crossing}/refit", { params: { path } })) });
  const list = useQuery({ queryKey: ["bodies", id], queryFn: () => take(client.GET("/api/crossings/{crossing}/bodies", { params: { path, query: { limit: 500 } } })) });
  const constructs = useQuery({ queryKey: ["constructs", id], enabled: tab === "constructs", queryFn: () => take(client.GET("/api/crossings/{crossing}/constructs", { params: { path } })) });
  const rows = list.data?.rows ?? [];
  const at = Math.max(0, rows.findIndex((r) => r.item === Number(link.get("item"))));
  const row = rows[at];
  const body = useQuery({ queryKey: ["body", id, row?.item, row?.field], enabled: !!row, queryFn: () => take(client.GET("/api/crossings/{crossing}/bodies/{item}/{field}", { params: { path: { ...path, item: row?.item ?? 0, field: row?.field ?? "" } } })) });
  const [left, setLeft] = useState<{ part: number; by: number }>();
  const [right, setRight] = useState<{ part: number; by: number }>();
  const [suggested, setSuggested] = useState("");
  const [show, setShow] = useState<number>();
  const missing = useMemo(() => ((body.data?.account.missing ?? []) as Missing[]), [body.data]);
  const step = (by: number) => rows[at + by] && (setShow(undefined), link.set({ item: rows[at + by]?.item ?? null }, true));
  const run = () => !live && start.mutate({ kind: "refit" });
  useKeys([
    { key: "j", says: "next body", run: () => step(1) },
    { key: "k", says: "previous body", run: () => step(-1) },
    { key: "r", says: "refit all", run },
  ]);
  const t = totals.data;
  const account = (body.data?.account ?? {}) as Record<string, number[] | number>;
  const pair = (name: string) => (Array.isArray(account[name]) ? (account[name] as number[]) : [0, 0]);
  return (
    <>
      <div className="title">
        <h1>
          Refit <small>markup</small>
        </h1>
        <Tabs
          at={tab}
          first="pages"
          tabs={[
            ["pages", `Page by page ${count(list.data?.total)}`],
            ["constructs", "Constructs"],
            ["losses", `Losses ${count(t?.unaccounted)}`],
          ]}
        />
        <span className="sp" />
        {t && t.words > 0 && (
          <span className="aside">
            {share(t.words - t.unaccounted, t.words)} of {many(t.words, "word")} accounted for
          </span>
        )}
        <Button variant="contained" onClick={run} disabled={!!live}>
          Refit all
        </Button>
      </div>
      <RunLine kinds={["refit"]} />
      <Told error={totals.error ?? list.error ?? start.error} />
      {list.data && !rows.length && (
        <section className="panel">
          <Empty title="No body is refitted yet." action="Refit all" onAction={run}>
            Bodies come from fields of the type “the body, as blocks”. Lift the pages first, then refit.
          </Empty>
        </section>
      )}
      {tab === "pages" && row && (
        <>
          <div className="beside" style={{ flex: "1.9 1 0" }}>
            <section className="shore old" aria-label="Old page">
              <h2>
                Old <small className="mono">{row.key}</small>
                <span className="sp" />
                <small style={row.unaccounted ? { color: "var(--orange)", fontWeight: 600 } : undefined}>{row.unaccounted ? `${many(row.unaccounted, "word")} unaccounted` : `all ${many(row.words, "word")} accounted for`}</small>
                <button className="linkish" onClick={() => step(-1)} disabled={at === 0}>
                  ‹ <kbd>K</kbd>
                </button>
                <span className="soft" style={{ fontWeight: 400 }}>
                  {count(at + 1)}/{count(rows.length)}
                </span>
                <button className="linkish" onClick={() => step(1)} disabled={at >= rows.length - 1}>
                  <kbd>J</kbd> ›
                </button>
              </h2>
              <div className="bodyframe">
                {body.data && <PageView key={`${row.item} ${row.unaccounted} ${row.removed}`} path={`/page/${id}/${row.address}/${body.data.old_preview}?losses=true`} title={`Old page ${row.key}`} scroll={left} show={show} onScroll={(part) => setRight({ part, by: Date.now() })} />}
              </div>
            </section>
            {body.data ? <NewSide body={body.data} scroll={right} onScroll={(part) => setLeft({ part, by: Date.now() })} /> : <section className="shore new" />}
          </div>
          <div className="shores" style={{ flex: "1 1 0" }}>
            <section className="panel" style={{ flex: 1 }} aria-label="Account of this page">
              <h2>
                Words of this page <small>{`links ${pair("links").reverse().join(" of ")} · pictures ${pair("pictures").reverse().join(" of ")}`}</small>
              </h2>
              <div className="scroll" tabIndex={0} role="region" aria-label="Words that are not in the blocks">
                <table className="plain">
                  <tbody>
                    {missing.map((m, n) => (
                      <tr key={n}>
                        <td style={{ color: m.why ? undefined : "var(--orange)" }}>
                          <button className="linkish" style={{ textAlign: "left", color: "inherit" }} onClick={() => setShow(m.node)}>
                            {m.text.length > 140 ? `${m.text.slice(0, 140)}…` : m.text}
                          </button>
                          <div className="mono soft">{m.where}</div>
                        </td>
                        <td className="n">
                          {m.why ? (
                            <span className="soft">step “{m.why}”</span>
                          ) : (
                            <button className="linkish" onClick={() => setSuggested(lastOf(m.where))}>
                              make a step
                            </button>
                          )}
                        </td>
                      </tr>
                    ))}
                  </tbody>
                </table>
                {!missing.length && body.data && <div className="empty">Every word of this page is in its blocks, its fields or shared furniture.</div>}
              </div>
            </section>
            <Steps suggested={suggested} onUsed={() => undefined} />
          </div>
        </>
      )}
      {tab === "constructs" && (
        <section className="panel" style={{ flex: 1 }} aria-label="Constructs">
          <h2>
            What is in these bodies <small>by count</small>
          </h2>
          <Told error={constructs.error} />
          <div className="scroll" tabIndex={0} role="region" aria-label="Constructs by count">
            <table className="plain">
              <thead>
                <tr>
                  <th>construct</th>
                  <th className="n">times</th>
                  <th className="n">bodies</th>
                  <th />
                </tr>
              </thead>
              <tbody>
                {(constructs.data ?? []).map((c) => (
                  <tr key={c.name}>
                    <td className={c.name.includes("<") ? "mono" : ""}>{c.name}</td>
                    <td className="n">{count(c.count)}</td>
                    <td className="n">{count(c.bodies)}</td>
                    <td className="n">
                      <button className="linkish" onClick={() => link.set({ tab: null, item: c.example, form: "blocks" })}>
                        an example
                      </button>
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
        </section>
      )}
      {tab === "losses" && (
        <section className="panel" style={{ flex: 1 }} aria-label="Losses">
          <h2>
            Bodies by what they lost <small>the worst first</small>
          </h2>
          <div className="scroll" tabIndex={0} role="region" aria-label="Losses by page">
            <table className="plain">
              <thead>
                <tr>
                  <th>old page</th>
                  <th>kind</th>
                  <th className="n">words</th>
                  <th className="n">in blocks</th>
                  <th className="n">in raw islands</th>
                  <th className="n">by steps</th>
                  <th className="n">unaccounted</th>
                </tr>
              </thead>
              <tbody>
                {rows.map((r) => (
                  <tr key={`${r.item} ${r.field}`}>
                    <td className="mono">
                      <button className="linkish mono" style={{ textAlign: "left" }} onClick={() => link.set({ tab: null, item: r.item })}>
                        {r.key}
                      </button>
                    </td>
                    <td>
                      <button className="linkish" onClick={() => void go(`lift?kind=${r.kind}&page=${r.address}`)}>
                        {r.kind}
                      </button>
                    </td>
                    <td className="n">{count(r.words)}</td>
                    <td className="n">{count(r.in_blocks)}</td>
                    <td className="n">{count(r.in_islands)}</td>
                    <td className="n">{count(r.removed)}</td>
                    <td className="n" style={r.unaccounted ? { color: "var(--orange)", fontWeight: 600 } : undefined}>
                      {count(r.unaccounted)}
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
        </section>
      )}
    </>
  );
}

const lastOf = (where: string) => where.split(" > ").slice(-2).join(" > ");
