/** Lift: the captured page beside the fields of its kind; every page against every field below. */
import { Button } from "@mui/material";
import { useMutation, useQuery } from "@tanstack/react-query";
import { useCallback, useMemo, useState } from "react";
import { client, take, type Schemas } from "../../api/client";
import { useGo } from "../../shell/Frame";
import { useKeys } from "../../shell/keys";
import { count, followed, many, useCrossingId, useLink, usePlan, useRefresh, useStart } from "../../shell/state";
import { CoverageGrid, CoverageKey } from "../../shores/CoverageGrid";
import { PageView, type Mark } from "../../shores/PageView";
import { FateChip, useFates } from "../../shores/FateChip";
import { useLive } from "../../shores/Run";
import { StageHead } from "../../shores/StageHead";
import { Empty } from "../../shores/Told";
import { useWalk } from "../../shores/walk";
import { HandValue } from "./HandValue";
import { FieldEditor, readsBy, shown, type Field } from "./FieldEditor";

const FRESH: Field = {
  name: "",
  type: "line",
  locators: [{ css: "", attribute: null, meta: null, label: null, address: null }],
  treat: [],
  required: false,
  choices: [],
} as unknown as Field;

export default function Lift() {
  const id = useCrossingId();
  const link = useLink();
  const go = useGo();
  const plan = usePlan();
  const start = useStart();
  const refresh = useRefresh();
  const live = useLive(["lift"]);
  const kinds = (plan.data?.plan.kinds ?? []).filter((k) => k.items !== "none");
  const kind = kinds.find((k) => k.name === link.get("kind")) ?? kinds[0];
  const name = kind?.name ?? "";
  const path = { crossing: id };
  const fate = useFates();
  const grid = useQuery({
    queryKey: ["grid", id, name, fate],
    enabled: !!name,
    queryFn: () =>
      take(
        client.GET("/api/crossings/{crossing}/coverage/{kind}", {
          params: { path: { ...path, kind: name }, query: { fate } },
        }),
      ),
  });
  const kindsNow = useQuery({
    queryKey: ["kinds", id, fate],
    queryFn: () => take(client.GET("/api/crossings/{crossing}/kinds", { params: { path, query: { fate } } })),
  });
  const inKind = { ...path, kind: name };
  const pages = useWalk({
    name: "pages",
    view: [id, name, fate],
    at: link.get("page"),
    idOf: (p: Schemas["SamplePage"]) => String(p.address),
    load: (offset, limit) =>
      name
        ? take(
            client.GET("/api/crossings/{crossing}/kinds/{kind}/pages", {
              params: { path: inKind, query: { offset, limit, fate } },
            }),
          )
        : Promise.resolve({ total: 0, rows: [] }),
    find: async (address) =>
      name
        ? (
            await take(
              client.GET("/api/crossings/{crossing}/kinds/{kind}/pages/position", {
                params: { path: inKind, query: { address: Number(address), fate } },
              }),
            )
          ).position
        : -1,
    onAt: (p) => link.set({ page: p.address }, true),
  });
  const { row: page, step } = pages;
  const itemId = page?.item ?? 0;
  const item = useQuery({
    queryKey: ["item", id, itemId],
    enabled: !!itemId,
    queryFn: () =>
      take(client.GET("/api/crossings/{crossing}/items/{item}", { params: { path: { ...path, item: itemId } } })),
  });
  const chosen = link.get("field");
  const [fresh, setFresh] = useState(false);
  const [tried, setTried] = useState<number[]>([]);
  const [picked, setPicked] = useState<{ css: string; at: number } | null>(null);
  const pick = useMutation({
    mutationFn: (node: number) =>
      take(
        client.GET("/api/crossings/{crossing}/addresses/{address}/nodes/{node}", {
          params: { path: { ...path, address: page?.address ?? 0, node } },
        }),
      ),
    onSuccess: (found) => setPicked({ css: found.selector, at: Date.now() }),
  });
  const again = useMutation({
    mutationFn: () => start.mutateAsync({ kind: "lift", only: page?.address ?? 0 }),
    onSettled: refresh,
  });
  const onTried = useCallback((nodes: number[]) => setTried(nodes), []);
  const editing = fresh || kind?.fields?.some((f) => f.name === chosen);
  const marks = useMemo(() => {
    const made: Mark[] = [];
    for (const field of item.data?.fields ?? [])
      for (const node of field.nodes) made.push({ node, as: field.field === chosen ? "chosen" : "field" });
    if (editing) {
      const own = made.filter((m) => m.as === "field");
      return [...own, ...tried.map((node) => ({ node, as: "chosen" as const }))];
    }
    return made;
  }, [item.data, chosen, tried, editing]);
  const run = () => !live && kinds.length > 0 && start.mutate({ kind: "lift", all: true });
  useKeys([
    { key: "j", says: "next page", run: () => step(1) },
    { key: "k", says: "previous page", run: () => step(-1) },
    { key: "n", says: "new field", run: () => name && (link.set({ field: null }), setFresh(true)) },
    { key: "r", says: "lift all", run },
  ]);
  const sorted = kindsNow.data?.sorted ?? 0;
  const setOpen = (field: string | null) => {
    setFresh(false);
    setTried([]);
    setPicked(null);
    link.set({ field }, true);
  };
  return (
    <>
      <StageHead
        title="Lift"
        trade="extraction"
        stage="lift"
        error={
          plan.error ??
          start.error ??
          pick.error ??
          again.error ??
          pages.error ??
          grid.error ??
          item.error ??
          kindsNow.error
        }
        tabs={
          <nav className="tabs many" aria-label="Kinds">
            {kinds.map((k) => (
              <a
                key={k.name}
                href={`?kind=${encodeURIComponent(k.name)}`}
                className={k.name === name ? "on" : ""}
                aria-current={k.name === name ? "page" : undefined}
                onClick={(e) =>
                  followed(e, () => {
                    setFresh(false);
                    link.set({ kind: k.name, page: null, field: null });
                  })
                }
              >
                {k.label || k.name} {count(kindsNow.data?.kinds.find((x) => x.name === k.name)?.pages)}
              </a>
            ))}
          </nav>
        }
        aside={<FateChip />}
      >
        <Button variant="contained" onClick={run} disabled={!!live || !sorted}>
          Lift all
        </Button>
      </StageHead>
      {plan.data && !kinds.length ? (
        <section className="panel">
          <Empty title="There is no kind to lift yet." action="To the kinds" onAction={() => void go("sort")}>
            Fields belong to kinds. Make a kind and sort the pages first.
          </Empty>
        </section>
      ) : (
        <>
          <div className="shores" style={{ flex: "1.7 1 0" }}>
            <section className="shore old" style={{ flex: 1.7 }} aria-label="Old page">
              <h2>
                Old page{" "}
                <small className="mono">
                  {page
                    ? `${page.key} · ${count(pages.index + 1)} of ${count(pages.total)}`
                    : pages.total
                      ? "…"
                      : "none"}
                </small>
                <span className="sp" />
                <button className="linkish" onClick={() => step(-1)} disabled={pages.index === 0}>
                  ‹ <kbd>K</kbd>
                </button>
                <button className="linkish" onClick={() => step(1)} disabled={pages.index >= pages.total - 1}>
                  <kbd>J</kbd> ›
                </button>
                <button className="linkish" disabled={!page || again.isPending} onClick={() => again.mutate()}>
                  lift this page again
                </button>
              </h2>
              <div className="bodyframe">
                {page ? (
                  <PageView
                    key={page.address}
                    path={`/page/${id}/${page.address}/${page.preview}`}
                    title={`Old page ${page.key}`}
                    marks={marks}
                    onPick={(node) => editing && pick.mutate(node)}
                  />
                ) : pages.total || !pages.ready ? null : fate.length ? (
                  <Empty
                    title="No page of this kind has this fate."
                    action="To the addresses"
                    onAction={() => void go(`survey?${fate.map((f) => `fate=${encodeURIComponent(f)}`).join("&")}`)}
                  >
                    Files and addresses without a page of their own are in the survey's list.
                  </Empty>
                ) : (
                  <Empty title="No page is in this kind yet." action="To the kinds" onAction={() => void go("sort")}>
                    Sort the pages first; then they can be read here.
                  </Empty>
                )}
              </div>
            </section>
            <section className="shore new" style={{ flex: 1 }} aria-label="Fields">
              <h2>
                {kind?.label || name}{" "}
                <small>
                  {many(kind?.fields?.length ?? 0, "field")}
                  {editing ? " · click in the page to teach this one" : ""}
                </small>
                <span className="sp" />
                <button
                  className="linkish"
                  onClick={() => (link.set({ field: null }), setFresh(true))}
                  disabled={!name}
                >
                  + field
                </button>
              </h2>
              <div className="scroll pad" tabIndex={0} role="region" aria-label="Fields of this kind">
                {fresh && (
                  <FieldEditor
                    field={FRESH}
                    index={-1}
                    kind={name}
                    page={page?.address ?? 0}
                    picked={picked}
                    onTried={onTried}
                    onDone={setOpen}
                  />
                )}
                {(kind?.fields ?? []).map((field, n) => {
                  const letters = grid.data?.fields[field.name] ?? "";
                  const filled = [...letters].filter((l) => "fhm".includes(l)).length;
                  const value = item.data?.fields.find((f) => f.field === field.name);
                  if (field.name === chosen && !fresh)
                    return (
                      <FieldEditor
                        key={`${name} ${field.name} ${plan.data?.revision}`}
                        field={field as Field}
                        index={n}
                        kind={name}
                        page={page?.address ?? 0}
                        picked={picked}
                        onTried={onTried}
                        onDone={setOpen}
                      />
                    );
                  return (
                    <div key={field.name} className="held">
                      <button className="card" onClick={() => setOpen(field.name)}>
                        <span className="top">
                          <b>{field.name}</b>
                          <span className="soft">
                            {field.type}
                            {field.required ? ", required" : ""}
                          </span>
                          <em>{letters ? `${count(filled)}/${count(letters.length)}` : "–"}</em>
                        </span>
                        <div className="loc">{field.locators.map(readsBy).join(" · or ")}</div>
                        {value && (
                          <div className="value">
                            {value.edited !== null && value.edited !== undefined ? (
                              <b>{shown(value.edited)}</b>
                            ) : value.lifted !== null && value.lifted !== undefined ? (
                              shown(value.lifted)
                            ) : (
                              <span className="state empty">nothing found</span>
                            )}
                            {["odd", "many"].includes(value.state) && (
                              <span className={`state ${value.state}`}> {value.note || value.state}</span>
                            )}
                          </div>
                        )}
                      </button>
                      {value && item.data && <HandValue old={item.data.key} type={field.type} value={value} />}
                    </div>
                  );
                })}
              </div>
            </section>
          </div>
          <section
            className="panel"
            style={{ flex: "0 1 auto", maxHeight: "34%", minHeight: 90 }}
            aria-label="Coverage"
          >
            <h2>
              Coverage <CoverageKey pages={grid.data?.items.length ?? 0} />
            </h2>
            {grid.data?.items.length ? (
              <CoverageGrid
                grid={grid.data}
                fields={(kind?.fields ?? []).map((f) => f.name)}
                at={page?.address}
                onOpen={(address, field) => (setFresh(false), link.set({ page: address, field }))}
              />
            ) : fate.length ? null : (
              <div className="empty" style={{ padding: "6px 14px" }}>
                Nothing of this kind is lifted yet. Look at the values on a page or two, then lift all.
              </div>
            )}
          </section>
        </>
      )}
    </>
  );
}
