/** What the survey met and kept out: by host and reason, who links there, and the ways to let it in. */
import { Button } from "@mui/material";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { count, many, useLink } from "../../shell/state";
import { Addr } from "../../shores/Addr";
import { LongList, NONE, type Column, type Picked } from "../../shores/LongList";
import { Told } from "../../shores/Told";
import { KeptOutGroups, type Group, type Way } from "./KeptOutGroups";
import { useKeptOut, useKeptOutRows, useKeptOutSorts, useLetIn } from "./keptOutQueries";
import { BUSY, off } from "../../shell/off";

type Row = Schemas["KeptOutRow"];

const COLUMNS: Column<Row>[] = [
  {
    id: "url",
    label: "address",
    width: 260,
    grow: true,
    look: "mono",
    sort: "url",
    cell: (r) => (
      <>
        <Addr of={r.url.replace(/^https?:\/\//, "")} />
        {r.addresses > 1 && <span className="soft"> ?… {count(r.addresses)} queries</span>}
      </>
    ),
  },
  { id: "what", label: "what it is", width: 132, cell: (r) => r.what },
  { id: "how", label: "stands in", width: 66, cell: (r) => r.how || "–" },
  {
    id: "pages",
    label: "on",
    width: 78,
    look: "num",
    sort: "pages",
    cell: (r) => (r.pages ? many(r.pages, "page") : "none"),
  },
  { id: "source", label: "first on", width: 190, look: "mono", cell: (r) => <Addr of={r.source_key} /> },
];

/** ``left``: known addresses that the survey has still to ask when it goes on. */
export function KeptOut({ left }: { left: number }) {
  const link = useLink();
  const groups = useKeptOut();
  const [picked, setPicked] = useState<Picked>(NONE);
  const host = link.get("out");
  const reason = link.get("why");
  const search = link.get("search");
  const what = link.get("what");
  const order = link.get("order") === "-pages" ? ("-pages" as const) : ("url" as const);
  const sorts = useKeptOutSorts({ host, reason, search });
  const { view, load } = useKeptOutRows({ host, reason, search, what, order });
  const admit = useLetIn(() => setPicked(NONE));
  const letIn = (group: Group, way: Way, ids: number[] = []) =>
    admit.mutate({ host: group.host, reason: group.reason, way, ids });
  const list = groups.data ?? [];
  const chosen = list.find((g) => g.host === host && g.reason === reason);
  const some = chosen?.one_by_one && picked.ids.size > 0;
  return (
    <div className="shores">
      <section className="panel" style={{ flex: "0 0 340px" }} aria-label="Kept out, by host and reason">
        <h2>
          Kept out <small>met on the way, and not fetched</small>
        </h2>
        <Told error={groups.error ?? sorts.error ?? admit.error} />
        {admit.data && left > 0 && (
          <div className="told" role="status">
            The plan says now: {admit.data.text}. Go on with the survey to fetch what that lets in.
          </div>
        )}
        <KeptOutGroups
          list={list}
          known={!groups.isPending}
          chosen={chosen}
          busy={admit.isPending}
          onChoose={(group) => (setPicked(NONE), link.set({ out: group?.host ?? null, why: group?.reason ?? null }))}
          onLetIn={letIn}
        />
      </section>
      <section className="panel" style={{ flex: 1 }} aria-label="Addresses kept out">
        <div className="filters">
          {chosen && (
            <button className="chip on mono" onClick={() => link.set({ out: null, why: null })}>
              {chosen.host}: {chosen.says} ×
            </button>
          )}
          {(sorts.data ?? []).map((s) => (
            <button
              key={s.what}
              className={`chip${what === s.what ? " on" : ""}`}
              aria-pressed={what === s.what}
              onClick={() => link.set({ what: what === s.what ? null : s.what }, true)}
            >
              {s.what} {count(s.count)}
            </button>
          ))}
          <input
            className="find"
            placeholder="find in address"
            aria-label="find in address"
            value={search}
            onChange={(e) => link.set({ search: e.target.value }, true)}
          />
        </div>
        <LongList<Row>
          name="kept-out"
          label="Addresses kept out"
          columns={COLUMNS}
          view={view}
          load={load}
          order={order}
          onOrder={(next) => link.set({ order: next.endsWith("pages") ? "-pages" : null }, true)}
          singly
          picked={picked}
          onPicked={setPicked}
          onOpen={(row) =>
            row.source && link.set({ tab: null, open: row.source, part: "out", out: null, why: null, search: null })
          }
          empty={<div className="empty">None here.</div>}
          foot={() =>
            some && (
              <span className="acts" style={{ marginLeft: "auto" }}>
                <Button {...off([admit.isPending, BUSY])} onClick={() => letIn(chosen, "these", [...picked.ids])}>
                  Take {many(picked.ids.size, "address", "addresses")} alone
                </Button>
              </span>
            )
          }
        />
      </section>
    </div>
  );
}
