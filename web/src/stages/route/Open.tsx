/** What is open, by shape, at the left; deciding over one address or its shape; the new site at the right. */
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { useKeys } from "../../shell/keys";
import { count, useCrossing, useLink, useSetPairs } from "../../shell/state";
import { allSaved, useUnsaved } from "../../shell/unsaved";
import { Told } from "../../shores/Told";
import { useAct } from "../survey/addressQueries";
import { Decision, shapeRule, type OpenRow } from "./Decision";
import { Falling, NewAddresses } from "./OpenParts";
import { useOpen, type Rule, type ShapeGroup } from "./queries";
import { ShapeDecision } from "./ShapeDecision";
import { OVER } from "./Settle";
import { Shapes } from "./Shapes";

const LARGE = 30; // addresses

export function OpenAddresses() {
  const link = useLink();
  const pairs = useSetPairs();
  const known = useCrossing().data?.addresses ?? 0;
  const aside = useAct();
  const groups = useOpen();
  const all = useMemo(() => groups.data ?? [], [groups.data]);
  const unaccountedOnly = link.get("planned") !== "with";
  const shown = useMemo(
    () =>
      all
        .map((g) => ({ ...g, rows: unaccountedOnly ? g.rows.filter((r) => r.fate === "unaccounted") : g.rows }))
        .filter((g) => (unaccountedOnly ? g.unaccounted > 0 : true)),
    [all, unaccountedOnly],
  );
  const [turned, setTurned] = useState<Set<string>>(new Set());
  // a large shape that is folded over others starts closed, and so do those in it
  const large = useMemo(() => {
    const names = new Set<string>();
    let top = false;
    for (const g of shown) {
      if (g.level === 0) top = g.folded && g.count > LARGE;
      if (top) names.add(`${g.level} ${g.shape}`);
    }
    return names;
  }, [shown]);
  const isOpen = useCallback(
    (g: ShapeGroup) => {
      const name = `${g.level} ${g.shape}`;
      return turned.has(name) === large.has(name);
    },
    [turned, large],
  );
  const toggle = (g: ShapeGroup) => {
    const made = new Set(turned);
    const name = `${g.level} ${g.shape}`;
    if (!made.delete(name)) made.add(name);
    setTurned(made);
  };
  const seen = useMemo(() => {
    let under = Infinity; // what lies in a closed shape is not shown
    return shown.filter((g) => {
      if (g.level > under) return false;
      under = isOpen(g) ? Infinity : g.level;
      return true;
    });
  }, [shown, isOpen]);
  const rows = useMemo(
    () => seen.flatMap((g) => (isOpen(g) ? g.rows.map((r): OpenRow => ({ ...r, pattern: g.pattern })) : [])),
    [seen, isOpen],
  );
  const inside = useMemo(
    () => shown.flatMap((g) => g.rows.map((r): OpenRow => ({ ...r, pattern: g.pattern }))),
    [shown],
  );
  const group = shown.find((g) => g.shape === link.get("shape"));
  const atId = Number(link.get("at"));
  const at = group ? undefined : (inside.find((r) => r.id === atId) ?? (atId ? undefined : rows[0]));
  const [to, setTo] = useState("");
  const [reason, setReason] = useState("");
  const [rule, setRule] = useState<Rule | null>(null);
  const [asking, setAsking] = useState(false);
  const key = at?.id ?? 0;
  useEffect(() => {
    setTo("");
    setReason("");
    setRule(null);
    setAsking(false);
  }, [key]);
  useUnsaved("pair", to && at ? `the new address of ${at.key}` : "", "at");
  const here = rows.findIndex((r) => r.id === at?.id);
  const step = (by: number) => {
    const next = rows[Math.max(0, Math.min(rows.length - 1, here + by))];
    if (next) link.set({ at: next.id, shape: null }, true);
  };
  const looked = useRef(0);
  useEffect(() => {
    looked.current = at?.id ?? 0;
  });
  // after a decision the next open address is looked at, unless another one is being looked at by then
  const following = (row: OpenRow) => {
    const place = rows.findIndex((r) => r.id === row.id);
    return (rows[place + 1] ?? rows[place - 1])?.id ?? null;
  };
  // the list may be without the decided one before we are told
  const next = (decided: OpenRow, then: number | null) => {
    if (looked.current && looked.current !== decided.id) return;
    allSaved();
    setTo("");
    link.set({ at: then }, true);
  };
  const decide = (row: OpenRow, status: 301 | 410, target: string) => {
    const then = following(row);
    return pairs.mutate(
      {
        set: [{ old: row.key, new: target, status, match: "exact", reason }],
        text:
          status === 410 ? `${row.key} retired` : target === row.key ? `${row.key} stays` : `${row.key} to ${target}`,
      },
      { onSuccess: () => next(row, then) },
    );
  };
  const ask = (row: OpenRow, asked: string, until: string) => {
    const then = following(row);
    return aside.mutate(
      { ...OVER, what: "ask", to: until, reason: asked, ids: [row.id], filters: {} },
      { onSuccess: () => (setAsking(false), next(row, then)) },
    );
  };
  const setAside = (row: OpenRow) => {
    const then = following(row);
    return aside.mutate(
      { ...OVER, what: "aside", reason, ids: [row.id], filters: {} },
      { onSuccess: () => next(row, then) },
    );
  };
  useKeys([
    { key: "j", says: "next address", run: () => step(1) },
    { key: "k", says: "previous address", run: () => step(-1) },
    { key: "e", says: "write its new address", run: () => document.getElementById("new-place")?.focus() },
    { key: "d", says: "retire it (410)", run: () => at && decide(at, 410, "") },
    { key: "a", says: "accept: it stays where it is", run: () => at && decide(at, 301, at.key) },
    { key: "q", says: "ask the owner, and lead it on for now", run: () => at && setAsking(true) },
    {
      key: "n",
      says: "a rule for its whole shape",
      run: () => at && setRule(shapeRule(at)),
    },
  ]);
  const tops = all.filter((g) => g.level === 0);
  const open = tops.reduce((sum, g) => sum + g.unaccounted, 0);
  const planned = tops.reduce((sum, g) => sum + g.count - g.unaccounted, 0);
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
        <Shapes
          shown={seen}
          at={at?.id ?? 0}
          shape={group?.shape ?? ""}
          isOpen={isOpen}
          onToggle={toggle}
          unaccountedOnly={unaccountedOnly}
          known={known}
          planned={planned}
          ready={!!groups.data}
        />
        <Falling />
      </section>
      <section className="panel" style={{ flex: 1 }} aria-label="Decision">
        {group ? (
          <ShapeDecision key={group.shape} of={group} />
        ) : at ? (
          <Decision
            at={at}
            to={to}
            onTo={setTo}
            reason={reason}
            onReason={setReason}
            rule={rule}
            onRule={setRule}
            busy={pairs.isPending || aside.isPending}
            error={pairs.error ?? aside.error}
            onDecide={(status, target) => decide(at, status, target)}
            onAside={() => setAside(at)}
            asking={asking}
            onAsking={setAsking}
            onAsk={(asked, until) => ask(at, asked, until)}
          />
        ) : (
          <div className="empty">
            {atId && groups.data ? "This address is not open any more." : "Choose an address at the left."}
          </div>
        )}
      </section>
      <NewAddresses
        onChoose={(path) => {
          setTo(path);
          document.getElementById("new-place")?.focus();
        }}
      />
    </div>
  );
}
