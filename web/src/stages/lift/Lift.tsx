/** Lift: the captured page beside the fields of its kind; every page against every field below. */
import { Button } from "@mui/material";
import { useCallback, useMemo, useState } from "react";
import { useKeys } from "../../shell/keys";
import { count, followed, useLink, usePlan, useStart } from "../../shell/state";
import { useKinds } from "../sort/queries";
import { CoverageGrid, CoverageKey } from "../../shores/CoverageGrid";
import type { Mark } from "../../shores/PageView";
import { FateChip, useFates } from "../../shores/FateChip";
import { useLive } from "../../shores/Run";
import { StageHead } from "../../shores/StageHead";
import { Empty } from "../../shores/Told";
import { Bulk } from "./Bulk";
import { Differences } from "./Differences";
import { Fields, type Kind } from "./Fields";
import type { Picked } from "./field";
import { OldPage } from "./OldPage";
import { useGrid, useItem, useKindPages, useLiftPage, useTreatments } from "./queries";
import { RUNS, off } from "../../shell/off";
import { leaving } from "../../shell/unsaved";

const intoSight = (tab: HTMLElement | null) => tab?.scrollIntoView({ block: "nearest" });

export default function Lift() {
  const link = useLink();
  const plan = usePlan();
  const start = useStart();
  const live = useLive(["lift"]);
  const kinds = (plan.data?.plan.kinds ?? []).filter((k) => k.items !== "none");
  const fate = useFates();
  const kindsNow = useKinds(fate);
  // those of several languages are there once for each; their fields are one kind's
  const rows = kindsNow.data?.kinds.filter((k) => k.makes_items) ?? [];
  const wanted = link.get("kind");
  const row = rows.find((k) => k.name === wanted) ?? rows.find((k) => k.of === wanted) ?? rows[0];
  const kind = kinds.find((k) => k.name === row?.of);
  const name = row?.name ?? "";
  const grid = useGrid(name, fate);
  const pages = useKindPages(name, fate, link.get("page"), (p) => link.set({ page: p.address }, true));
  const { row: page, step } = pages;
  // of a page whose sections are items there are several
  const sections = (grid.data?.items ?? []).filter((i) => i.address === page?.address);
  const at = Math.max(
    0,
    sections.findIndex((i) => String(i.id) === link.get("item")),
  );
  const section = sections.length > 1 ? sections[at] : undefined;
  const turn = (by: number) => sections[at + by] && leaving(() => link.set({ item: sections[at + by]?.id }, true));
  const item = useItem(section?.id ?? page?.item ?? 0);
  const treatments = useTreatments(name, plan.data?.revision);
  const chosen = link.get("field");
  const [fresh, setFresh] = useState(false);
  const [tried, setTried] = useState<number[]>([]);
  const [picked, setPicked] = useState<Picked | null>(null);
  const again = useLiftPage();
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
    { key: "]", says: "next section of the page", run: () => turn(1) },
    { key: "[", says: "previous section of the page", run: () => turn(-1) },
    { key: "n", says: "new field", run: () => name && begin() },
    { key: "r", says: "lift all", run },
    { key: "w", says: "compare with what was lifted, or another plan", run: () => compare() },
    { key: "b", says: "change the values of many items", run: () => changeMany() },
  ]);
  const changing = link.get("part") === "bulk";
  const changeMany = () => leaving(() => (setFresh(false), link.set({ part: changing ? null : "bulk", field: null })));
  const comparing = link.get("show") === "differences";
  const compare = () => link.set({ show: comparing ? null : "differences" });
  const begin = () => leaving(() => (link.set({ field: null }), setFresh(true)));
  const sorted = kindsNow.data?.sorted ?? 0;
  const setOpen = (field: string | null) =>
    leaving(() => {
      setFresh(false);
      setTried([]);
      setPicked(null);
      link.set({ field }, true);
    });
  return (
    <>
      <StageHead
        title="Lift"
        trade="extraction"
        stage="lift"
        error={
          plan.error ??
          start.error ??
          again.error ??
          pages.error ??
          grid.error ??
          item.error ??
          kindsNow.error ??
          treatments.error
        }
        tabs={
          <nav className="tabs many" aria-label="Kinds">
            {rows.map((k) => (
              <a
                key={k.name}
                href={`?kind=${encodeURIComponent(k.name)}`}
                className={k.name === name ? "on" : ""}
                aria-current={k.name === name ? "page" : undefined}
                ref={k.name === name ? intoSight : undefined}
                onClick={(e) =>
                  followed(e, () =>
                    leaving(() => (setFresh(false), link.set({ kind: k.name, page: null, field: null }))),
                  )
                }
              >
                {k.label} {count(k.pages)}
              </a>
            ))}
          </nav>
        }
        aside={<FateChip />}
      >
        <Button variant="contained" onClick={run} {...off([!!live, RUNS], [!sorted, "Sort the pages first."])}>
          Lift all
        </Button>
      </StageHead>
      {plan.data && !kinds.length ? (
        <section className="panel">
          <Empty title="There is no kind to lift yet." action="To the kinds" to={"sort"}>
            Fields belong to kinds. Make a kind and sort the pages first.
          </Empty>
        </section>
      ) : (
        <>
          <div className="shores" style={{ flex: "1.7 1 0" }}>
            <OldPage
              pages={pages}
              marks={marks}
              fate={fate}
              lifting={again.isPending}
              section={section && { key: section.key, at, of: sections.length, onTurn: turn }}
              onPick={(node) => editing && page && setPicked({ address: page.address, node, at: Date.now() })}
              onLift={() => page && again.mutate(page.address)}
            />
            {changing ? (
              <Bulk
                key={name}
                kind={kind as Kind | undefined}
                name={name}
                items={grid.data?.items.length ?? 0}
                onClose={changeMany}
              />
            ) : (
              <Fields
                kind={kind as Kind | undefined}
                grid={grid.data}
                item={item.data}
                treat={treatments.of}
                revision={plan.data?.revision}
                page={page?.address ?? 0}
                chosen={chosen}
                fresh={fresh}
                editing={!!editing}
                picked={picked}
                onTried={onTried}
                onOpen={setOpen}
                onFresh={begin}
                onMany={changeMany}
              />
            )}
          </div>
          {comparing ? (
            <Differences onClose={compare} />
          ) : (
            <section
              className="panel"
              style={{ flex: "0 1 auto", maxHeight: "34%", minHeight: 90 }}
              aria-label="Coverage"
            >
              <h2>
                Coverage <CoverageKey pages={grid.data?.items.length ?? 0} />
                <span className="sp" />
                <button className="linkish" onClick={compare} title="What the plan as it is now would change">
                  compare <kbd>W</kbd>
                </button>
              </h2>
              {grid.data?.items.length ? (
                <CoverageGrid
                  grid={grid.data}
                  fields={(kind?.fields ?? []).map((f) => f.name)}
                  at={page?.address}
                  item={section?.id}
                  onOpen={(address, field, item) =>
                    field === chosen && !fresh
                      ? link.set({ page: address, item })
                      : leaving(() => (setFresh(false), link.set({ page: address, field, item })))
                  }
                />
              ) : fate.length ? null : (
                <div className="empty" style={{ padding: "6px 14px" }}>
                  Nothing of this kind is lifted yet. Look at the values on a page or two, then lift all.
                </div>
              )}
            </section>
          )}
        </>
      )}
    </>
  );
}
