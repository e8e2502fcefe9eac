/** Sort: kinds with their rules and live counts; what no rule catches, and what two would take. */
import { Button, TextField } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useDeferredValue, useEffect, useState } from "react";
import { client, take, type Schemas } from "../../api/client";
import { useGo } from "../../shell/Frame";
import { useKeys } from "../../shell/keys";
import { count, many, useChangePlan, useCrossingId, useLink, usePlan, useStart, type Plan } from "../../shell/state";
import { useUnsaved } from "../../shell/unsaved";
import { useLive } from "../../shores/Run";
import { StageHead } from "../../shores/StageHead";
import { Empty, Told } from "../../shores/Told";
import { AddressList } from "../survey/AddressList";
import { Detail } from "../survey/Detail";
import { DOUBLE_COLUMNS, SORT_COLUMNS } from "../survey/columns";

type Kind = Plan["kinds"] extends (infer K)[] | undefined ? K : never;
type Rule = Schemas["SortRule"];

const EMPTY: Kind = {
  name: "",
  label: "",
  rules: [{ address: null, below: "/", element: null }],
  items: "one",
  fields: [],
  address: null,
  slug_from: "title",
};
const clear = (rule: Rule): Rule => ({
  address: rule.address || null,
  below: rule.below || null,
  element: rule.element || null,
});
const nameOf = (label: string) =>
  label
    .toLowerCase()
    .normalize("NFKD")
    .replace(/[^a-z0-9]+/g, "_")
    .replace(/^[^a-z]+|_+$/g, "")
    .slice(0, 40);

function LiveCount({ rules, kind }: { rules: Rule[]; kind: string }) {
  const id = useCrossingId();
  const wanted = useDeferredValue(JSON.stringify(rules.map(clear).filter((r) => r.address || r.below || r.element)));
  const [asked, setAsked] = useState(wanted);
  useEffect(() => {
    const timer = window.setTimeout(() => setAsked(wanted), 250);
    return () => clearTimeout(timer);
  }, [wanted]);
  const tried = useQuery({
    queryKey: ["try-rules", id, asked],
    enabled: asked !== "[]",
    queryFn: ({ signal }) =>
      take(
        client.POST("/api/crossings/{crossing}/kinds/try", {
          params: { path: { crossing: id } },
          body: { rules: JSON.parse(asked) as Rule[] },
          signal,
        }),
      ),
  });
  const t = tried.data;
  if (tried.error) return <Told error={tried.error} />;
  if (!t) return <div className="told soft">Counting…</div>;
  const others = Object.entries(t.now).filter(([name]) => name && name !== kind);
  return (
    <div className="told" role="status">
      <b data-testid="rule-count">{count(t.pages)}</b> of {many(t.of, "page")}
      {t.looked < t.to_look && ` (${count(t.looked)} of ${count(t.to_look)} looked into so far; sorting looks at all)`}
      {(t.now[""] ?? 0) > 0 && <> · {count(t.now[""])} of them in no kind now</>}
      {(t.now[kind] ?? 0) > 0 && kind && <> · {count(t.now[kind])} here already</>}
      {others.map(([name, number]) => (
        <span key={name}>
          {" "}
          · {count(number)} now in {name}
        </span>
      ))}
      {t.examples.length > 0 && (
        <div className="mono soft" style={{ overflowWrap: "anywhere" }}>
          {t.examples.slice(0, 5).join("  ")}
        </div>
      )}
    </div>
  );
}

function KindEditor({ kind, index, onDone }: { kind: Kind; index: number; onDone: (name: string | null) => void }) {
  const [draft, setDraft] = useState(kind);
  const save = useChangePlan();
  const fresh = index < 0;
  const dirty = JSON.stringify(draft) !== JSON.stringify(kind);
  useUnsaved("kind", dirty && !save.isSuccess ? `the kind ${draft.label || draft.name || "(new)"}` : "");
  const setRule = (n: number, part: keyof Rule, value: string) =>
    setDraft({ ...draft, rules: draft.rules.map((r, m) => (m === n ? { ...r, [part]: value || null } : r)) });
  const submit = () =>
    save.mutate(
      {
        text: fresh ? `kind ${draft.label} made` : `kind ${draft.label || draft.name} changed`,
        change: (plan) => {
          const made: Kind = {
            ...draft,
            name: draft.name || nameOf(draft.label ?? ""),
            rules: draft.rules.map(clear),
            address: draft.address || null,
          };
          const kinds = (plan.kinds ??= []);
          if (fresh) kinds.push({ ...made, fields: made.fields?.length ? made.fields : START_FIELDS });
          else kinds[index] = made;
        },
      },
      { onSuccess: () => onDone(draft.name || nameOf(draft.label ?? "")) },
    );
  const remove = () =>
    save.mutate(
      { text: `kind ${draft.label || draft.name} removed`, change: (plan) => plan.kinds?.splice(index, 1) },
      { onSuccess: () => onDone(null) },
    );
  const move = (by: number) =>
    save.mutate({
      text: `kind ${draft.label || draft.name} moved ${by < 0 ? "up" : "down"}`,
      change: (plan) => {
        const kinds = plan.kinds ?? [];
        const [taken] = kinds.splice(index, 1);
        if (taken) kinds.splice(Math.max(0, index + by), 0, taken);
      },
    });
  return (
    <form
      className="form scroll"
      aria-label="Kind"
      onSubmit={(e) => {
        e.preventDefault();
        submit();
      }}
    >
      <div className="two">
        <TextField
          label="Name of the kind"
          value={draft.label ?? ""}
          autoFocus={fresh}
          onChange={(e) => setDraft({ ...draft, label: e.target.value })}
        />
        <TextField
          label="New address"
          placeholder="/news/{slug}"
          value={draft.address ?? ""}
          disabled={draft.items === "none"}
          onChange={(e) => setDraft({ ...draft, address: e.target.value })}
        />
      </div>
      {draft.rules.map((rule, n) => (
        <fieldset
          key={n}
          style={{
            border: "1px solid var(--line)",
            borderRadius: 6,
            padding: "8px 10px",
            display: "flex",
            flexDirection: "column",
            gap: 8,
            margin: 0,
          }}
        >
          <legend style={{ fontSize: 12.5, color: "var(--soft)" }}>
            {n === 0 ? "A page is of this kind when all of this holds" : "or when all of this holds"}
          </legend>
          <TextField
            label="its path lies below"
            placeholder="/news/"
            value={rule.below ?? ""}
            onChange={(e) => setRule(n, "below", e.target.value)}
          />
          <TextField
            label="its whole address fits (RE2 pattern)"
            placeholder="/engines\.aspx\?id=\d+"
            value={rule.address ?? ""}
            onChange={(e) => setRule(n, "address", e.target.value)}
          />
          <TextField
            label="it holds an element (CSS selector)"
            placeholder="table.data"
            value={rule.element ?? ""}
            onChange={(e) => setRule(n, "element", e.target.value)}
          />
          {draft.rules.length > 1 && (
            <button
              type="button"
              className="linkish"
              style={{ alignSelf: "start" }}
              onClick={() => setDraft({ ...draft, rules: draft.rules.filter((_, m) => m !== n) })}
            >
              take this rule out
            </button>
          )}
        </fieldset>
      ))}
      <div className="acts">
        <button
          type="button"
          className="linkish"
          onClick={() => setDraft({ ...draft, rules: [...draft.rules, { address: null, below: null, element: null }] })}
        >
          + another rule
        </button>
        <label className="check" style={{ marginLeft: "auto" }}>
          <input
            type="checkbox"
            checked={draft.items === "none"}
            onChange={(e) => setDraft({ ...draft, items: e.target.checked ? "none" : "one" })}
          />{" "}
          makes no items (lists the new system builds itself)
        </label>
      </div>
      <LiveCount rules={draft.rules} kind={kind.name} />
      <Told error={save.error} />
      <div className="acts">
        <Button
          type="submit"
          variant="contained"
          disabled={!(draft.label || draft.name) || (!dirty && !fresh) || save.isPending}
        >
          {fresh ? "Make this kind" : "Save"}
        </Button>
        {!fresh && (
          <>
            <Button
              type="button"
              variant="outlined"
              onClick={() => move(-1)}
              disabled={index === 0 || dirty}
              title="The first kind whose rule holds has the page"
            >
              Move up
            </Button>
            <Button type="button" variant="outlined" onClick={() => move(1)} disabled={dirty}>
              Move down
            </Button>
            <Button type="button" onClick={remove}>
              Remove
            </Button>
          </>
        )}
        {fresh && (
          <Button type="button" onClick={() => onDone(null)}>
            Leave it
          </Button>
        )}
      </div>
    </form>
  );
}

const START_FIELDS: NonNullable<Kind["fields"]> = [
  { name: "title", type: "line", required: true, locators: [{ css: "h1" }, { meta: "title" }], treat: [], choices: [] },
  {
    name: "body",
    type: "blocks",
    required: true,
    locators: [{ css: "main" }, { css: "article" }],
    treat: [],
    choices: [],
  },
] as unknown as NonNullable<Kind["fields"]>;

const PAGES = { family: ["page"], answer: ["2xx"] };
const LISTS: Record<string, { label: string; fixed: Record<string, string[]>; none: string }> = {
  pages: { label: "Pages", fixed: PAGES, none: "No page matches." },
  unsorted: {
    label: "Pages that no rule catches",
    fixed: { ...PAGES, fits: ["no kind"] },
    none: "Every page is in a kind.",
  },
  double: {
    label: "Pages that more than one kind would take",
    fixed: { ...PAGES, fits: ["more than one kind"] },
    none: "No page fits two kinds.",
  },
};
const FILTERS: [string, string][] = [
  ["kind", "kind"],
  ["fate", "fate"],
  ["linked", "links"],
  ["origin", "decided by"],
];

export default function Sort() {
  const id = useCrossingId();
  const link = useLink();
  const go = useGo();
  const plan = usePlan();
  const start = useStart();
  const live = useLive(["sort"]);
  const tab = link.get("tab") || "kinds";
  const counts = useQuery({
    queryKey: ["kinds", id],
    queryFn: () => take(client.GET("/api/crossings/{crossing}/kinds", { params: { path: { crossing: id } } })),
  });
  const kinds = plan.data?.plan.kinds ?? [];
  const [fresh, setFresh] = useState(false);
  const chosen = fresh ? "" : link.get("kind") || (kinds[0]?.name ?? "");
  const index = kinds.findIndex((k) => k.name === chosen);
  const c = counts.data;
  const run = () => !live && kinds.length > 0 && start.mutate({ kind: "sort", all: true });
  const step = (by: number) => {
    const next = kinds[Math.max(0, Math.min(kinds.length - 1, index + by))];
    if (next && tab === "kinds") link.set({ kind: next.name });
  };
  useKeys([
    { key: "n", says: "new kind", run: () => (link.set({ tab: null, kind: null }), setFresh(true)) },
    { key: "r", says: "sort all pages", run },
    ...(tab === "kinds"
      ? [
          { key: "j", says: "next kind", run: () => step(1) },
          { key: "k", says: "previous kind", run: () => step(-1) },
        ]
      : []),
  ]);
  const list = LISTS[tab];
  const open = Number(link.get("open"));
  return (
    <>
      <StageHead
        title="Sort"
        trade="content types"
        at={tab}
        tabs={[
          ["kinds", `Kinds ${count(kinds.length)}`],
          ["pages", `Pages ${count(c?.pages)}`],
          ["unsorted", `Unsorted ${count((c?.pages ?? 0) - (c?.sorted ?? 0))}`],
          ["double", `Fitting twice ${count(c?.double)}`],
        ]}
        aside={`${count(c?.sorted)} of ${many(c?.pages ?? 0, "page")} sorted`}
        stage="sort"
        error={counts.error ?? plan.error ?? start.error}
      >
        <Button variant="outlined" onClick={() => (link.set({ tab: null, kind: null }), setFresh(true))}>
          New kind
        </Button>
        <Button variant="contained" onClick={run} disabled={!!live || !kinds.length || !c?.pages}>
          Sort all {count(c?.pages)}
        </Button>
      </StageHead>
      {tab === "kinds" && (
        <div className="shores">
          <section className="shore new" style={{ flex: "0 0 420px" }} aria-label="Kinds">
            <h2>
              Kinds on the new shore <small>the first whose rule holds has the page</small>
            </h2>
            <div className="scroll pad">
              {kinds.map((kind) => (
                <button
                  key={kind.name}
                  className={`card${kind.name === chosen ? " on" : ""}`}
                  onClick={() => (setFresh(false), link.set({ kind: kind.name }))}
                  aria-pressed={kind.name === chosen}
                >
                  <span className="top">
                    <b>{kind.label || kind.name}</b>
                    {kind.items === "none" && <span className="soft">no items</span>}
                    <em>{count(c?.kinds.find((k) => k.name === kind.name)?.pages)}</em>
                  </span>
                  <div className="soft">{kind.rules.map(says).join(" or ")}</div>
                  {kind.address && <div className="loc">→ {kind.address}</div>}
                </button>
              ))}
              {plan.data && !kinds.length && !fresh && (
                <Empty title="There is no kind yet." action="Make the first kind" onAction={() => setFresh(true)}>
                  A kind is a sort of page that becomes a sort of item: news, products, plain pages. Give it a rule; the
                  count is live.
                </Empty>
              )}
            </div>
          </section>
          <section className="panel" style={{ flex: 1 }} aria-label="Kind">
            {fresh ? (
              <>
                <h2>New kind</h2>
                <KindEditor
                  kind={EMPTY}
                  index={-1}
                  onDone={(name) => (setFresh(false), name && link.set({ kind: name }))}
                />
              </>
            ) : kinds[index] ? (
              <>
                <h2>
                  {kinds[index]?.label || kinds[index]?.name}
                  <small>
                    {many(kinds[index]?.fields?.length ?? 0, "field")} ·{" "}
                    <button className="linkish" onClick={() => void go(`lift?kind=${encodeURIComponent(chosen)}`)}>
                      fields
                    </button>{" "}
                    ·{" "}
                    <button className="linkish" onClick={() => void go(`survey?kind=${encodeURIComponent(chosen)}`)}>
                      its pages
                    </button>
                  </small>
                </h2>
                <KindEditor
                  key={`${chosen} ${plan.data?.revision}`}
                  kind={kinds[index] as Kind}
                  index={index}
                  onDone={(name) => link.set({ kind: name })}
                />
              </>
            ) : (
              <div className="empty">Choose a kind at the left, or make a new one.</div>
            )}
          </section>
        </div>
      )}
      {list && (
        <div className="shores">
          <section className="panel" style={{ flex: 1 }} aria-label={list.label}>
            <AddressList
              key={tab}
              name={`sort-${tab}`}
              columns={tab === "double" ? DOUBLE_COLUMNS : SORT_COLUMNS}
              filters={tab === "unsorted" ? FILTERS.slice(1) : FILTERS}
              fixed={list.fixed}
              empty={
                c && !c.pages ? (
                  <Empty title="There are no pages yet." action="To the survey" onAction={() => void go("survey")}>
                    Survey the old site first.
                  </Empty>
                ) : (
                  <div className="empty">{list.none}</div>
                )
              }
            />
          </section>
          {open > 0 && <Detail address={open} />}
        </div>
      )}
    </>
  );
}

const says = (rule: Rule) =>
  [
    rule.below && `below ${rule.below}`,
    rule.address && `address ${rule.address}`,
    rule.element && `has ${rule.element}`,
  ]
    .filter(Boolean)
    .join(" and ");
