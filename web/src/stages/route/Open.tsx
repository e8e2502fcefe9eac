/** What is open, by shape, at the left; deciding over one address or its shape; the new site at the right. */
import { Button, TextField } from "@mui/material";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useEffect, useMemo, useRef, useState } from "react";
import { client, take, type Schemas } from "../../api/client";
import { useGo } from "../../shell/Frame";
import { useKeys } from "../../shell/keys";
import { count, many, useChangePlan, useCrossing, useCrossingId, useLink, useSetPairs } from "../../shell/state";
import { useUnsaved } from "../../shell/unsaved";
import { FateMark } from "../../shores/Fate";
import { PageView } from "../../shores/PageView";
import { Told } from "../../shores/Told";
import { RoundChart } from "./Rounds";
import { RuleForm, type Rule } from "./RuleForm";
import { Addr } from "../../shores/Addr";

type Row = Schemas["OpenRow"];

/** A shape (where * stands for a varying part, # for a number) as a pattern: what varies becomes a captured part. */
export function patternOf(shape: string): string {
  return shape
    .split(/([*#])/)
    .map((part) => (part === "#" ? "(\\d+)" : part === "*" ? "([^/?&]+)" : part.replace(/[.*+?^$()[\]{}|\\]/g, "\\$&")))
    .join("");
}

/** The captured page of the address that is decided over, when it is a page. */
function Captured({ address }: { address: number }) {
  const id = useCrossingId();
  const found = useQuery({
    queryKey: ["address", id, address],
    queryFn: () =>
      take(
        client.GET("/api/crossings/{crossing}/addresses/{address}", { params: { path: { crossing: id, address } } }),
      ),
  });
  if (found.error) return <Told error={found.error} />;
  if (!found.data?.preview) return null;
  return (
    <div className="bodyframe" style={{ flex: "1 0 240px", paddingBottom: 4 }}>
      <PageView
        key={address}
        path={`/page/${id}/${address}/${found.data.preview}`}
        title={`Captured page ${found.data.key}`}
        small
      />
    </div>
  );
}

function Falling() {
  const id = useCrossingId();
  const rounds = useQuery({
    queryKey: ["rounds", id],
    queryFn: () => take(client.GET("/api/crossings/{crossing}/rounds", { params: { path: { crossing: id } } })),
  });
  if (!rounds.data?.some((r) => r.ended)) return null;
  return (
    <div className="pad" style={{ paddingTop: 6 }}>
      <RoundChart rounds={rounds.data} />
    </div>
  );
}

function NewSide({ onChoose }: { onChoose: (path: string) => void }) {
  const id = useCrossingId();
  const [text, setText] = useState("");
  const items = useQuery({
    queryKey: ["new-side", id, text],
    queryFn: () =>
      take(
        client.GET("/api/crossings/{crossing}/items", {
          params: { path: { crossing: id }, query: { search: text, limit: 200 } },
        }),
      ),
    placeholderData: keepPreviousData,
  });
  const rows = (items.data?.rows ?? []).filter((i) => i.new_path);
  return (
    <section className="shore new" style={{ flex: "0 0 290px" }} aria-label="New addresses">
      <h2>
        New shore <small>{many(items.data?.total ?? 0, "item")}</small>
      </h2>
      <div className="pad" style={{ paddingBottom: 6 }}>
        <input
          className="find"
          style={{ width: "100%" }}
          placeholder="find a new address or title"
          aria-label="find a new address or title"
          value={text}
          onChange={(e) => setText(e.target.value)}
        />
      </div>
      <Told error={items.error} />
      <div className="scroll">
        {rows.map((item) => (
          <div className="grp" key={item.id}>
            <button
              className="row"
              style={{ paddingLeft: 12 }}
              onClick={() => onChoose(item.new_path)}
              title={`${item.title}: lead the chosen address here`}
            >
              <Addr of={item.new_path} />
            </button>
          </div>
        ))}
        {!rows.length && items.data && (
          <div className="empty">No item has a new address yet. Lift the pages, then decide the fates.</div>
        )}
      </div>
    </section>
  );
}

export function OpenAddresses() {
  const id = useCrossingId();
  const link = useLink();
  const go = useGo();
  const pairs = useSetPairs();
  const known = useCrossing().data?.addresses ?? 0;
  const plan = useChangePlan();
  const groups = useQuery({
    queryKey: ["open", id],
    queryFn: () => take(client.GET("/api/crossings/{crossing}/open", { params: { path: { crossing: id } } })),
  });
  const all = useMemo(() => groups.data ?? [], [groups.data]);
  const unaccountedOnly = link.get("planned") !== "with";
  const shown = useMemo(
    () =>
      all
        .map((g) => ({ ...g, rows: unaccountedOnly ? g.rows.filter((r) => r.fate === "unaccounted") : g.rows }))
        .filter((g) => (unaccountedOnly ? g.unaccounted > 0 : true)),
    [all, unaccountedOnly],
  );
  const [closed, setClosed] = useState<Set<string>>(new Set());
  const rows = useMemo(() => shown.flatMap((g) => (closed.has(g.shape) ? [] : g.rows)), [shown, closed]);
  const atId = Number(link.get("at"));
  const at = rows.find((r) => r.id === atId) ?? (atId ? undefined : rows[0]);
  const [to, setTo] = useState("");
  const [reason, setReason] = useState("");
  const [rule, setRule] = useState<Rule | null>(null);
  const key = at?.id ?? 0;
  useEffect(() => {
    setTo("");
    setReason("");
    setRule(null);
  }, [key]);
  useUnsaved("pair", to && at ? `the new address of ${at.key}` : "");
  const here = rows.findIndex((r) => r.id === at?.id);
  const step = (by: number) => {
    const next = rows[Math.max(0, Math.min(rows.length - 1, here + by))];
    if (next) link.set({ at: next.id }, true);
  };
  const looked = useRef(0);
  useEffect(() => {
    looked.current = at?.id ?? 0;
  });
  // after a decision the next open address is looked at, unless another one is being looked at by then
  const next = (decided: Row) => {
    if (looked.current !== decided.id) return;
    setTo("");
    const place = rows.findIndex((r) => r.id === decided.id);
    const following = rows[place + 1] ?? rows[place - 1];
    link.set({ at: following && following.id !== decided.id ? following.id : null }, true);
  };
  const decide = (row: Row, status: 301 | 410, target: string) =>
    pairs.mutate(
      {
        set: [{ old: row.key, new: target, status, match: "exact" }],
        text:
          status === 410 ? `${row.key} retired` : target === row.key ? `${row.key} stays` : `${row.key} to ${target}`,
      },
      { onSuccess: () => next(row) },
    );
  const aside = (row: Row) =>
    plan.mutate(
      {
        text: `${row.key} set aside: ${reason}`,
        decide: true,
        change: (p) =>
          void ((p.route ??= {} as never).aside ??= []).push({
            address: row.key.replace(/[.*+?^$()[\]{}|\\]/g, "\\$&"),
            reason,
          }),
      },
      { onSuccess: () => next(row) },
    );
  useKeys([
    { key: "j", says: "next address", run: () => step(1) },
    { key: "k", says: "previous address", run: () => step(-1) },
    { key: "e", says: "write its new address", run: () => document.getElementById("new-place")?.focus() },
    { key: "d", says: "retire it (410)", run: () => at && decide(at, 410, "") },
    { key: "a", says: "accept: it stays where it is", run: () => at && decide(at, 301, at.key) },
    {
      key: "n",
      says: "a rule for its whole shape",
      run: () => at && setRule({ old: patternOf(at.shape), new: "", match: "pattern", status: 301, reason: "" }),
    },
  ]);
  const open = all.reduce((sum, g) => sum + g.unaccounted, 0);
  const planned = all.reduce((sum, g) => sum + g.count - g.unaccounted, 0);
  return (
    <div className="shores">
      <section className="shore old" style={{ flex: "0 0 330px" }} aria-label="Open addresses">
        <h2>
          Old shore <small>{count(open)} unaccounted, by shape</small>
          <span className="sp" />
          {planned > 0 && (
            <button className="linkish" onClick={() => link.set({ planned: unaccountedOnly ? "with" : null }, true)}>
              {unaccountedOnly ? `+ ${count(planned)} planned` : "unaccounted only"}
            </button>
          )}
        </h2>
        <Told error={groups.error} />
        <div className="scroll" tabIndex={0} role="region" aria-label="Open addresses by shape">
          {shown.map((g) => (
            <div className="grp" key={g.shape}>
              <button
                aria-expanded={!closed.has(g.shape)}
                onClick={() =>
                  setClosed((had) => {
                    const made = new Set(had);
                    if (!made.delete(g.shape)) made.add(g.shape);
                    return made;
                  })
                }
              >
                <span className="soft" aria-hidden>
                  {closed.has(g.shape) ? "▸" : "▾"}
                </span>
                <Addr of={g.shape} />
                <em className={g.unaccounted ? "hot" : ""}>{count(unaccountedOnly ? g.unaccounted : g.count)}</em>
              </button>
              {!closed.has(g.shape) &&
                g.rows.map((r) => (
                  <button
                    key={r.id}
                    className={`row${r.id === at?.id ? " on" : ""}`}
                    aria-current={r.id === at?.id ? "true" : undefined}
                    onClick={() => link.set({ at: r.id }, true)}
                  >
                    <FateMark fate={r.fate} proven={r.proven} />
                    <Addr of={r.key} />
                    {r.visits > 0 && <em>×{count(r.visits)}</em>}
                  </button>
                ))}
              {!closed.has(g.shape) && g.rows.length < (unaccountedOnly ? g.unaccounted : g.count) && (
                <div className="soft" style={{ padding: "2px 28px" }}>
                  … {count((unaccountedOnly ? g.unaccounted : g.count) - g.rows.length)} more of this shape
                </div>
              )}
            </div>
          ))}
          {groups.data && !shown.length && (
            <div className="empty">
              <b>
                {!known
                  ? "No old address is in the account yet."
                  : planned
                    ? "Nothing is unaccounted."
                    : "Nothing is open."}
              </b>
              {!known
                ? "Survey the old site first."
                : planned
                  ? `${many(planned, "fate is", "fates are")} planned. A check against the new host proves them.`
                  : "Every old address in the account has a proven fate."}
              {!known && (
                <div className="acts">
                  <Button variant="contained" onClick={() => void go("survey")}>
                    To the survey
                  </Button>
                </div>
              )}
            </div>
          )}
        </div>
        <Falling />
      </section>
      <section className="panel" style={{ flex: 1 }} aria-label="Decision">
        {at ? (
          <>
            <h2 style={{ display: "block" }}>
              <span style={{ overflowWrap: "anywhere" }}>
                <Addr of={at.key} whole />
              </span>
            </h2>
            <div className="scroll" style={{ display: "flex", flexDirection: "column" }}>
              <dl className="facts">
                <dt>Title</dt>
                <dd>{at.title || <span className="soft">none</span>}</dd>
                <dt>Fate</dt>
                <dd>
                  <FateMark fate={at.fate} proven={at.proven} word /> {at.why && <span>: {at.why}</span>}
                </dd>
                {at.decision && (
                  <>
                    <dt>Decided</dt>
                    <dd>
                      {at.decision} <Addr of={at.decision_target} />
                    </dd>
                  </>
                )}
                <dt>Weight</dt>
                <dd>
                  {many(at.visits, "visit")}, {many(at.in_links, "link")} in ·{" "}
                  <button className="linkish" onClick={() => void go(`survey?open=${at.id}`)}>
                    look at it
                  </button>
                </dd>
              </dl>
              <form
                className="form"
                onSubmit={(e) => {
                  e.preventDefault();
                  if (to.trim()) decide(at, 301, to.trim());
                }}
              >
                <div className="two">
                  <TextField
                    id="new-place"
                    label="Its new address"
                    placeholder="/new/place"
                    value={to}
                    onChange={(e) => setTo(e.target.value)}
                    slotProps={{ htmlInput: { className: "mono", spellCheck: false } }}
                  />
                  <Button type="submit" variant="contained" disabled={!to.trim() || pairs.isPending}>
                    Lead there
                  </Button>
                </div>
                <div className="acts">
                  <Button variant="outlined" onClick={() => decide(at, 301, at.key)} disabled={pairs.isPending}>
                    It stays <kbd style={{ marginLeft: 5 }}>A</kbd>
                  </Button>
                  <Button variant="outlined" onClick={() => decide(at, 410, "")} disabled={pairs.isPending}>
                    Retire (410) <kbd style={{ marginLeft: 5 }}>D</kbd>
                  </Button>
                  <Button
                    variant="outlined"
                    onClick={() =>
                      setRule({ old: patternOf(at.shape), new: "", match: "pattern", status: 301, reason: "" })
                    }
                  >
                    Rule for {at.shape.length > 22 ? "its shape" : at.shape} <kbd style={{ marginLeft: 5 }}>N</kbd>
                  </Button>
                </div>
                <div className="two">
                  <TextField label="Why it is left out" value={reason} onChange={(e) => setReason(e.target.value)} />
                  <Button
                    variant="outlined"
                    onClick={() => aside(at)}
                    disabled={reason.trim().length < 3 || plan.isPending}
                  >
                    Set aside
                  </Button>
                </div>
              </form>
              <div className="pad">
                <Told error={pairs.error ?? plan.error} />
              </div>
              {!rule && <Captured address={at.id} />}
              {rule && <RuleForm key={rule.old} rule={rule} index={-1} onDone={() => setRule(null)} />}
            </div>
          </>
        ) : (
          <div className="empty">
            {atId && groups.data ? "This address is not open any more." : "Choose an address at the left."}
          </div>
        )}
      </section>
      <NewSide
        onChoose={(path) => {
          setTo(path);
          document.getElementById("new-place")?.focus();
        }}
      />
    </div>
  );
}
