/** Lists, tables and logs handed over: weighed line by line before they are taken, visits counted from them. */
import { Button, MenuItem, TextField } from "@mui/material";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState, type DragEvent, type ReactNode } from "react";
import { client, myName, take, type Schemas } from "../../api/client";
import { count, many, useCrossingId, useRefresh, useStart, when } from "../../shell/state";
import { Told } from "../../shores/Told";
import { BroughtBack } from "./BroughtBack";

type Looked = Awaited<ReturnType<typeof upload>>;
type Weighed = Schemas["Weighed"];
type LineRow = Schemas["LineRow"];

const SORTS: Record<string, string> = { list: "list of addresses", log: "access log", analytics: "table with visits" };

function upload(crossing: number, content: Blob) {
  return take(
    client.PUT("/api/crossings/{crossing}/lists/file", {
      params: { path: { crossing } },
      body: content as never,
      bodySerializer: (body: unknown) => body as BodyInit,
      headers: { "Content-Type": "application/octet-stream" },
    }),
  );
}

function Lines({
  title,
  lines,
  of,
  children,
}: {
  title: string;
  lines: LineRow[];
  of: number;
  children?: (line: LineRow) => ReactNode;
}) {
  if (!of) return null;
  return (
    <details open={of <= 12}>
      <summary>
        <b>{title}</b> {count(of)}
      </summary>
      <table className="plain">
        <tbody>
          {lines.map((line) => (
            <tr key={line.number}>
              <td className="n soft" style={{ width: 44 }}>
                {line.number}
              </td>
              <td className="mono" style={{ width: "52%" }}>
                {line.text}
              </td>
              <td>{children ? children(line) : line.why}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {of > lines.length && <p className="soft">and {count(of - lines.length)} more</p>}
    </details>
  );
}

function Weighing({ looked, name, onDone }: { looked: Looked; name: string; onDone: () => void }) {
  const id = useCrossingId();
  const path = { crossing: id };
  const queries = useQueryClient();
  const refresh = useRefresh();
  const start = useStart();
  const [address, setAddress] = useState(looked.address);
  const [visits, setVisits] = useState(looked.visits);
  const [same, setSame] = useState<Set<number>>(new Set());
  const [own, setOwn] = useState("");
  const table = looked.form === "table";
  const reading = {
    token: looked.token,
    form: table ? ("table" as const) : ("lines" as const),
    address: Math.max(0, address),
    visits,
  };
  const ready = looked.form !== "log" && looked.form !== "archive" && (!table || address >= 0);
  const asked = useQuery({
    queryKey: ["weigh", id, reading],
    enabled: ready,
    retry: false,
    queryFn: () => take(client.POST("/api/crossings/{crossing}/lists/weigh", { params: { path }, body: reading })),
  });
  const done = () => {
    void queries.invalidateQueries({ queryKey: ["lists", id] });
    void refresh();
    onDone();
  };
  const accept = useMutation({
    mutationFn: () =>
      take(
        client.POST("/api/crossings/{crossing}/lists/take", {
          params: { path },
          body: { ...reading, name, without: [...same] },
        }),
      ),
    onSuccess: () => (start.mutate({ kind: "survey" }), done()),
  });
  const log = useMutation({
    mutationFn: () =>
      take(
        client.POST("/api/crossings/{crossing}/lists/log", {
          params: { path },
          body: { token: looked.token, name, own: own.split(/[\s,]+/).filter(Boolean) },
        }),
      ),
    onSuccess: () => (start.mutate({ kind: "survey" }), done()),
  });
  const archive = useMutation({
    mutationFn: () =>
      take(client.POST("/api/crossings/{crossing}/lists/archive", { params: { path }, body: { token: looked.token } })),
    onSuccess: done,
  });
  const found: Weighed | undefined = asked.data;
  const column = (label: string, value: number, set: (n: number) => void) => (
    <TextField select label={label} value={value} onChange={(e) => set(Number(e.target.value))}>
      <MenuItem value={-1}>none</MenuItem>
      {looked.columns.map((c, n) => (
        <MenuItem key={n} value={n}>
          {c}
        </MenuItem>
      ))}
    </TextField>
  );
  if (looked.form === "archive")
    return (
      <div className="form scroll">
        <p style={{ margin: 0 }}>
          <b>{name}</b> is an archive of answers (WARC). The survey can be built from it; the old site itself is not
          asked. Addresses within the bounds that it does not hold are listed as failed.
        </p>
        <Told error={archive.error ?? start.error} />
        <div className="acts">
          <Button variant="contained" disabled={archive.isPending} onClick={() => archive.mutate()}>
            Survey from the archive
          </Button>
          <Button onClick={onDone}>Leave it</Button>
        </div>
      </div>
    );
  if (looked.form === "log")
    return (
      <div className="form scroll">
        <p style={{ margin: 0 }}>
          <b>{name}</b> is an access log. Visits of people are counted; robots and your own machines are told apart.
          Addresses nobody links to come in with it.
        </p>
        <TextField
          label="Own machines, whose visits do not count (addresses or ranges)"
          placeholder="192.0.2.0/24"
          value={own}
          onChange={(e) => setOwn(e.target.value)}
          slotProps={{ htmlInput: { className: "mono" } }}
        />
        <Told error={log.error} />
        <div className="acts">
          <Button variant="contained" disabled={log.isPending} onClick={() => log.mutate()}>
            Read the log
          </Button>
          <Button onClick={onDone}>Leave it</Button>
        </div>
      </div>
    );
  return (
    <div className="form scroll">
      {table && (
        <>
          <div className="two">
            {column("Column of the addresses", address, setAddress)}
            {column("Column of the visits", visits, setVisits)}
          </div>
          <div style={{ overflowX: "auto" }} tabIndex={0} role="region" aria-label="First rows">
            <table className="plain">
              <thead>
                <tr>
                  {looked.columns.map((c, n) => (
                    <th key={n}>{c}</th>
                  ))}
                </tr>
              </thead>
              <tbody>
                {looked.rows.slice(0, 3).map((row, n) => (
                  <tr key={n}>
                    {row.map((cell, m) => (
                      <td key={m} className={m === address ? "mono" : ""}>
                        {cell}
                      </td>
                    ))}
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
        </>
      )}
      <Told error={asked.error ?? accept.error} />
      {found && (
        <>
          <dl
            className="facts"
            style={{ margin: 0, gridTemplateColumns: "150px 1fr" }}
            aria-label="What the list holds"
          >
            <dt>Lines</dt>
            <dd>{count(found.lines)}</dd>
            <dt>Distinct, in bounds</dt>
            <dd>
              {count(found.counts.distinct ?? 0)}, of them <b>{count(found.counts.new ?? 0)}</b> no survey has met
            </dd>
            {found.visits > 0 && (
              <>
                <dt>Visits</dt>
                <dd>{count(found.visits)}</dd>
              </>
            )}
          </dl>
          <div className="acts">
            <Button
              variant="contained"
              disabled={accept.isPending || !(found.counts.distinct ?? 0)}
              onClick={() => accept.mutate()}
            >
              Take {many((found.counts.distinct ?? 0) - same.size, "address", "addresses")} and fetch what is new
            </Button>
            <Button onClick={onDone}>Leave it</Button>
          </div>
          <Lines title="May be the same: you decide" lines={found.doubtful} of={found.counts.doubtful ?? 0}>
            {(line) => (
              <span>
                {line.why} apart from line {line.of}{" "}
                <button
                  type="button"
                  className={`chip${same.has(line.number) ? " on" : ""}`}
                  aria-pressed={same.has(line.number)}
                  onClick={() =>
                    setSame((had) =>
                      had.has(line.number)
                        ? new Set([...had].filter((n) => n !== line.number))
                        : new Set(had).add(line.number),
                    )
                  }
                >
                  {same.has(line.number) ? "is the same" : "is another"}
                </button>
              </span>
            )}
          </Lines>
          <Lines title="Not met before" lines={found.new} of={found.counts.new ?? 0} />
          <Lines title="Repeats" lines={found.repeats} of={found.counts.repeats ?? 0}>
            {(line) => `repeats line ${line.of}: ${line.why}`}
          </Lines>
          <Lines title="Repaired" lines={found.repaired} of={found.counts.repaired ?? 0} />
          <Lines title="Outside the bounds" lines={found.outside} of={found.counts.outside ?? 0} />
          <Lines title="Cannot be read" lines={found.bad} of={found.counts.bad ?? 0} />
        </>
      )}
    </div>
  );
}

export function Lists() {
  const id = useCrossingId();
  const path = { crossing: id };
  const queries = useQueryClient();
  const held = useQuery({
    queryKey: ["lists", id],
    queryFn: () => take(client.GET("/api/crossings/{crossing}/lists", { params: { path } })),
  });
  const [text, setText] = useState("");
  const [name, setName] = useState("");
  const look = useMutation({ mutationFn: (content: Blob) => upload(id, content) });
  const forget = useMutation({
    mutationFn: (number: number) =>
      take(client.DELETE("/api/crossings/{crossing}/lists/{number}", { params: { path: { ...path, number } } })),
    onSuccess: (rows) => queries.setQueryData(["lists", id], rows),
  });
  const give = (content: Blob, called: string) => {
    setName(called);
    look.mutate(content);
  };
  const drop = (e: DragEvent) => {
    e.preventDefault();
    const file = e.dataTransfer.files[0];
    if (file) give(file, file.name);
  };
  return (
    <div className="shores">
      <section
        className="panel"
        style={{ flex: "0 0 420px" }}
        aria-label="Lists and logs"
        onDragOver={(e) => e.preventDefault()}
        onDrop={drop}
      >
        <h2>
          Lists and logs <small>what the owner has beside the site itself</small>
        </h2>
        <div className="form">
          <TextField
            label="Addresses, one a line"
            multiline
            minRows={4}
            maxRows={8}
            value={text}
            onChange={(e) => setText(e.target.value)}
            slotProps={{ htmlInput: { className: "mono" } }}
          />
          <div className="acts">
            <Button
              variant="outlined"
              disabled={!text.trim() || look.isPending}
              onClick={() =>
                give(
                  new Blob([text]),
                  `pasted ${new Date().toISOString().slice(0, 10)}${myName() ? ` by ${myName()}` : ""}`,
                )
              }
            >
              Weigh these lines
            </Button>
            <Button variant="outlined" component="label" disabled={look.isPending}>
              Choose a file…
              <input
                hidden
                type="file"
                aria-label="A list, table or log"
                onChange={(e) =>
                  e.target.files?.[0] && (give(e.target.files[0], e.target.files[0].name), (e.target.value = ""))
                }
              />
            </Button>
            <span className="soft">
              CSV, XLSX, text, sitemap, feed, access log, WARC, also .gz; a table of decisions given out before
            </span>
          </div>
          <Told error={look.error ?? held.error ?? forget.error} />
        </div>
        <div className="scroll" tabIndex={0} role="region" aria-label="Taken">
          {(held.data ?? []).map((list) => (
            <div key={list.id} className="todo" style={{ flexDirection: "column", gap: 2 }}>
              <span style={{ display: "flex", gap: 8, width: "100%", alignItems: "baseline" }}>
                <b style={{ width: "auto", overflowWrap: "anywhere", flex: "0 1 auto" }}>{list.name}</b>
                <span className="sp" />
                {list.from_plan ? (
                  <span className="soft nowrap">beside the plan</span>
                ) : (
                  <button className="linkish" onClick={() => forget.mutate(list.id)}>
                    forget
                  </button>
                )}
              </span>
              <span>
                {SORTS[list.sort] ?? list.sort}, {many(list.addresses, "address", "addresses")}
                {list.visits > 0 && `, ${many(list.visits, "visit")}`}
                {list.at && (
                  <span className="soft">
                    {" "}
                    · {when(list.at)}
                    {list.by && ` by ${list.by}`}
                  </span>
                )}
              </span>
              <span className="soft">
                {Object.entries(list.report)
                  .filter(([, n]) => n > 0)
                  .map(([what, n]) => `${what} ${count(n)}`)
                  .join(" · ")}
              </span>
            </div>
          ))}
          {!held.data?.length && !held.isPending && (
            <div className="empty">
              None yet. An access log or an analytics table tells which addresses people ask for; a list from the owner
              names those that no link leads to.
            </div>
          )}
        </div>
      </section>
      <section className="panel" style={{ flex: 1 }} aria-label="What was handed over">
        <h2>
          {look.data ? name : "Weighed before it is taken"}{" "}
          {look.data && (
            <small>
              {
                {
                  log: "an access log",
                  archive: "an archive of answers",
                  table: "a table",
                  lines: "a list of addresses",
                  decisions: "a table of decisions brought back",
                }[look.data.form]
              }
              ; nothing is taken yet
            </small>
          )}
        </h2>
        {look.data?.form === "decisions" ? (
          <BroughtBack key={look.data.token} token={look.data.token} onDone={() => look.reset()} />
        ) : look.data ? (
          <Weighing key={look.data.token} looked={look.data} name={name} onDone={() => (look.reset(), setText(""))} />
        ) : (
          <div className="empty">
            Each line is held against the others and against what the survey knows: repeats with their reason, what may
            be the same, what lies outside the bounds, what cannot be read. You decide before anything changes.
          </div>
        )}
      </section>
    </div>
  );
}
