/** What the survey met and kept out: by host and reason, who links there, and the ways to let it in. */
import { Button } from "@mui/material";
import { keepPreviousData, useMutation, useQuery } from "@tanstack/react-query";
import { useCallback, useMemo, useState } from "react";
import { client, take, type Schemas } from "../../api/client";
import { count, many, useCrossingId, useLink, useRefresh } from "../../shell/state";
import { LongList, NONE, type Column, type Picked } from "../../shores/LongList";
import { Told } from "../../shores/Told";
import { Addr } from "../../shores/Addr";

type Group = Schemas["KeptOutGroup"];
type Row = Schemas["KeptOutRow"];
type Way = Schemas["LetIn"]["way"];

const REASONS: Record<string, string> = {
  "other host": "on another host",
  "other host: files only": "pages of a host that gives files only",
  "outside the folder": "outside the folders to stay in",
  "excluded by pattern": "excluded by a pattern",
  "not in an included pattern": "like none of the patterns asked for",
  "deeper than allowed": "deeper than allowed",
  "robots.txt": "robots.txt asks us to leave them",
  "endless space": "made without end by a script",
  "repeats itself": "a path that goes in a circle",
};
export const reasonWords = (reason: string) => REASONS[reason] ?? reason;

const WAYS: Record<Way, string> = {
  files: "Take its files",
  pages: "Take its pages too",
  alias: "It is the same site",
  these: "Take them",
  endless: "Take them all",
};

function waysOf(group: Group): Way[] {
  if (group.reason === "robots.txt") return [];
  if (group.reason === "endless space") return ["endless"];
  if (group.reason === "other host") return group.files ? ["files", "pages", "alias"] : ["pages", "alias"];
  if (group.reason === "other host: files only") return ["pages"];
  return ["these"];
}

const COLUMNS: Column<Row>[] = [
  {
    id: "url",
    label: "address",
    width: 260,
    grow: true,
    look: "mono",
    sort: "url",
    cell: (r) => <Addr of={r.url.replace(/^https?:\/\//, "")} />,
  },
  { id: "what", label: "what it is", width: 84, cell: (r) => r.what },
  { id: "how", label: "stands in", width: 66, cell: (r) => r.how || "–" },
  {
    id: "pages",
    label: "on",
    width: 78,
    look: "num",
    sort: "pages",
    cell: (r) => (r.pages ? many(r.pages, "page") : "none"),
  },
  { id: "source", label: "first on", width: 120, look: "mono", cell: (r) => <Addr of={r.source_key} /> },
];

/** ``left``: known addresses that the survey has still to ask when it goes on. */
export function KeptOut({ left }: { left: number }) {
  const id = useCrossingId();
  const link = useLink();
  const refresh = useRefresh();
  const path = useMemo(() => ({ crossing: id }), [id]);
  const groups = useQuery({
    queryKey: ["kept-out", id],
    queryFn: () => take(client.GET("/api/crossings/{crossing}/kept-out", { params: { path } })),
  });
  const [picked, setPicked] = useState<Picked>(NONE);
  const host = link.get("out");
  const reason = link.get("why");
  const search = link.get("search");
  const what = link.get("what");
  const order = link.get("order") === "-pages" ? ("-pages" as const) : ("url" as const);
  const query = useMemo(() => ({ host, reason, search, what, order }), [host, reason, search, what, order]);
  const within = useMemo(() => ({ host, reason, search }), [host, reason, search]);
  const sorts = useQuery({
    queryKey: ["kept-out-sorts", id, within],
    queryFn: () => take(client.GET("/api/crossings/{crossing}/kept-out/sorts", { params: { path, query: within } })),
    placeholderData: keepPreviousData,
  });
  const load = useCallback(
    (offset: number, limit: number, signal: AbortSignal) =>
      take(
        client.GET("/api/crossings/{crossing}/kept-out/rows", {
          params: { path, query: { ...query, offset, limit } },
          signal,
        }),
      ),
    [path, query],
  );
  const admit = useMutation({
    mutationFn: (wanted: { group: Group; way: Way; ids?: number[] }) =>
      take(
        client.POST("/api/crossings/{crossing}/kept-out/let-in", {
          params: { path },
          body: { host: wanted.group.host, reason: wanted.group.reason, way: wanted.way, ids: wanted.ids ?? [] },
        }),
      ),
    onSuccess: () => (setPicked(NONE), void refresh()),
  });
  const list = groups.data ?? [];
  const chosen = list.find((g) => g.host === host && g.reason === reason);
  const some = chosen && picked.ids.size > 0 && waysOf(chosen).length > 0 && chosen.reason !== "endless space";
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
        <div className="scroll" tabIndex={0} role="region" aria-label="Groups">
          {list.map((group) => {
            const on = group === chosen;
            return (
              <div key={group.host + group.reason} className={`group${on ? " on" : ""}`}>
                <button
                  type="button"
                  className="pick"
                  aria-pressed={on}
                  onClick={() => (
                    setPicked(NONE),
                    link.set({ out: on ? null : group.host, why: on ? null : group.reason })
                  )}
                >
                  <span className="mono">{group.host}</span>
                  <em>{count(group.count)}</em>
                  <small>
                    {reasonWords(group.reason)}
                    {group.files > 0 && group.files < group.count
                      ? `; ${many(group.files, "file")}`
                      : group.files
                        ? "; files"
                        : ""}
                  </small>
                </button>
                {on && (
                  <div className="acts">
                    {waysOf(group).map((way) => (
                      <Button
                        key={way}
                        variant="outlined"
                        disabled={admit.isPending}
                        onClick={() => admit.mutate({ group, way })}
                      >
                        {WAYS[way]}
                      </Button>
                    ))}
                    {group.reason === "robots.txt" && (
                      <span className="soft">To fetch them, say in manners that you act for the owner.</span>
                    )}
                  </div>
                )}
              </div>
            );
          })}
          {!list.length && !groups.isPending && (
            <div className="empty">Nothing was kept out. Every address that was met lies within the bounds.</div>
          )}
        </div>
      </section>
      <section className="panel" style={{ flex: 1 }} aria-label="Addresses kept out">
        <div className="filters">
          {chosen && (
            <button className="chip on mono" onClick={() => link.set({ out: null, why: null })}>
              {chosen.host}: {reasonWords(chosen.reason)} ×
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
          view={["kept-out", id, query]}
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
                <Button
                  disabled={admit.isPending}
                  onClick={() => admit.mutate({ group: chosen, way: "these", ids: [...picked.ids] })}
                >
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
