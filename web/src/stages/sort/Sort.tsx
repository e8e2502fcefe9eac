/** Sort: pages made alike, kinds with their rules and live counts; what no rule catches, and what two would take. */
import { Button } from "@mui/material";
import { useState } from "react";
import { Go } from "../../shell/Go";
import { useKeys } from "../../shell/keys";
import { count, many, useChangePlan, useLink, usePlan, useStart } from "../../shell/state";
import { useLive } from "../../shores/Run";
import { StageHead } from "../../shores/StageHead";
import { keep, open as stillOpen } from "../../shores/Proposed";
import { Empty } from "../../shores/Told";
import { AddressList } from "../survey/AddressList";
import { DOUBLE_COLUMNS, SORT_COLUMNS } from "../survey/columns";
import { Detail } from "../survey/Detail";
import { EMPTY, ofKind, pagesOf, type Kind } from "./kind";
import { KindEditor } from "./KindEditor";
import { KindList } from "./KindList";
import { Makes, useCut } from "./Makes";
import { OfRecords } from "./OfRecords";
import { useAlone, useGroups, useKinds } from "./queries";
import { BUSY, RUNS, off } from "../../shell/off";
import { leaving } from "../../shell/unsaved";

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
  const link = useLink();
  const plan = usePlan();
  const start = useStart();
  const live = useLive(["sort", "draft"]);
  const save = useChangePlan();
  const tab = link.get("tab") || (link.get("kind") ? "kinds" : "makes");
  const counts = useKinds();
  const groups = useGroups(useCut()[0]);
  const kinds = plan.data?.plan.kinds ?? [];
  const [fresh, setFresh] = useState(false);
  const chosen = fresh ? "" : link.get("kind") || (kinds[0]?.name ?? "");
  const index = kinds.findIndex((k) => k.name === chosen);
  const c = counts.data;
  const alone = (useAlone().data ?? []).reduce((sum, row) => sum + row.records, 0);
  const run = () => !live && kinds.length > 0 && start.mutate({ kind: "sort", all: true });
  const begin = () => leaving(() => (link.set({ tab: "kinds", kind: null }), setFresh(true)));
  const step = (by: number) => {
    const next = kinds[Math.max(0, Math.min(kinds.length - 1, index + by))];
    if (next && tab === "kinds") link.set({ kind: next.name });
  };
  const proposed = stillOpen(plan.data?.plan);
  const draft = () => !live && !!c?.pages && leaving(() => start.mutate({ kind: "draft" }));
  const yes = () =>
    proposed && save.mutate({ text: `yes to all that is proposed`, change: (changed) => keep(changed) });
  useKeys([
    { key: "d", says: "draft kinds, fields, steps and addresses", run: draft },
    { key: "y", says: "yes to all that is proposed", run: yes },
    ...(tab === "makes" ? [] : [{ key: "n", says: "new kind", run: begin }]),
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
          ["makes", `By make ${count(groups.data?.groups.length)}`],
          ...(alone ? [["records", `Records ${count(alone)}`] as [string, string]] : []),
          ["kinds", `Kinds ${count(kinds.length)}`],
          ["pages", `Pages ${count(c?.pages)}`],
          ["unsorted", `Unsorted ${count((c?.pages ?? 0) - (c?.sorted ?? 0))}`],
          ["double", `Fitting twice ${count(c?.double)}`],
        ]}
        aside={`${count(c?.sorted)} of ${many(c?.pages ?? 0, "page")} sorted`}
        stage="sort"
        error={counts.error ?? plan.error ?? start.error ?? save.error}
      >
        {proposed > 0 && (
          <Button
            variant="outlined"
            onClick={yes}
            {...off([save.isPending, BUSY], [!!live, RUNS])}
            title="Kinds, fields and steps as they are proposed become yours"
          >
            Yes to {count(proposed)} proposed
          </Button>
        )}
        <Button
          variant="outlined"
          onClick={draft}
          title="Proposes kinds, fields, clean-up steps and addresses for all that nobody has decided, and brings all up to date. One undo takes it back."
          {...off([!!live, RUNS], [!c?.pages, "Survey the old site first."])}
        >
          Draft it all
        </Button>
        <Button variant="outlined" onClick={begin}>
          New kind
        </Button>
        <Button
          variant="contained"
          onClick={run}
          {...off([!!live, RUNS], [!kinds.length, "There is no kind yet."], [!c?.pages, "Survey the old site first."])}
        >
          Sort all {count(c?.pages)}
        </Button>
      </StageHead>
      {(tab === "makes" || tab === "records") && (
        <div className="shores">
          {tab === "makes" ? (
            <Makes />
          ) : (
            <section className="shore old" style={{ flex: 1 }} aria-label="Records without a page">
              <h2>
                Records without a page on the old shore <small>{count(alone)}</small>
              </h2>
              <OfRecords />
            </section>
          )}
          <section className="shore new" style={{ flex: "0 0 300px" }} aria-label="Kinds">
            <h2>
              Kinds on the new shore <small>{count(kinds.length)}</small>
            </h2>
            <div className="scroll pad">
              <KindList chosen="" onChoose={(name) => link.set({ tab: "kinds", kind: name })} />
              {plan.data && !kinds.length && (
                <p className="soft">None yet. Choose a group at the left and press N: it becomes a kind.</p>
              )}
            </div>
          </section>
        </div>
      )}
      {tab === "kinds" && (
        <div className="shores">
          <section className="shore new" style={{ flex: "0 0 420px" }} aria-label="Kinds">
            <h2>
              Kinds on the new shore <small>the first whose rule holds has the page</small>
            </h2>
            <div className="scroll pad">
              <KindList
                chosen={chosen}
                onChoose={(name) => leaving(() => (setFresh(false), link.set({ kind: name })))}
              />
              {plan.data && !kinds.length && !fresh && (
                <Empty title="There is no kind yet." action="See what there is" to="sort?tab=makes">
                  A kind is a sort of page that becomes a sort of item: news, products, plain pages. Make one of a group
                  of pages that are made alike, or write its rule yourself.
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
                    <Go to={`lift?kind=${encodeURIComponent(chosen)}`}>fields</Go> ·{" "}
                    <Go to={`survey?${pagesOf(ofKind(c?.kinds ?? [], chosen))}`}>its pages</Go>
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
                  <Empty title="There are no pages yet." action="To the survey" to={"survey"}>
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
