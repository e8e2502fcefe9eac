/** Lists, tables and logs handed over: weighed line by line before they are taken, visits counted from them. */
import { Button, TextField } from "@mui/material";
import { useState, type DragEvent } from "react";
import { myName, type Schemas } from "../../api/client";
import { count, many, when } from "../../shell/state";
import { Told } from "../../shores/Told";
import { BroughtBack } from "./BroughtBack";
import { Records, RecordSources } from "./Records";
import { useLists } from "./listQueries";
import { useSide } from "./queries";
import { Weighing } from "./Weighing";
import { BUSY, off } from "../../shell/off";

const SORTS: Record<string, string> = { list: "list of addresses", log: "access log", analytics: "table with visits" };

interface TakenProps {
  old: boolean;
  lists: Schemas["ListRow"][] | undefined;
  onForget: (number: number) => void;
}

function Taken({ old, lists, onForget }: TakenProps) {
  return (
    <div className="scroll" tabIndex={0} role="region" aria-label="Taken">
      {(lists ?? []).map((list) => (
        <div key={list.id} className="todo" style={{ flexDirection: "column", gap: 2 }}>
          <span style={{ display: "flex", gap: 8, width: "100%", alignItems: "baseline" }}>
            <b style={{ width: "auto", overflowWrap: "anywhere", flex: "0 1 auto" }}>{list.name}</b>
            <span className="sp" />
            {list.from_plan ? (
              <span className="soft nowrap">beside the plan</span>
            ) : (
              <button className="linkish" onClick={() => onForget(list.id)}>
                forget
              </button>
            )}
          </span>
          <span>
            {SORTS[list.type] ?? list.type}, {many(list.addresses, "address", "addresses")}
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
      {lists?.length === 0 && (
        <div className="empty">
          {old
            ? "None yet. An access log or an analytics table tells which addresses people ask for; a list from the owner names those that no link leads to."
            : "None yet. A list of addresses with their titles, or a sitemap, serves as the new shore where the new site cannot be walked: old addresses are held against it in Route."}
        </div>
      )}
    </div>
  );
}

export function Lists() {
  const { held, look, forget } = useLists();
  const old = useSide() === "old";
  const [text, setText] = useState("");
  const [name, setName] = useState("");
  const [asRecords, setAs] = useState(false);
  const give = (content: Blob, called: string) => {
    setName(called);
    setAs(false);
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
          {old ? "Lists and logs" : "Lists"}{" "}
          <small>{old ? "what the owner has beside the site itself" : "what stands on the new site"}</small>
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
              {...off([!text.trim(), "Nothing is written there yet."], [look.isPending, BUSY])}
              onClick={() =>
                give(
                  new Blob([text]),
                  `pasted ${new Date().toISOString().slice(0, 10)}${myName() ? ` by ${myName()}` : ""}`,
                )
              }
            >
              Weigh these lines
            </Button>
            <Button variant="outlined" component="label" {...off([look.isPending, BUSY])}>
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
              {old
                ? "CSV, XLSX, text, sitemap, feed, blog export (XML), access log, WARC, also .gz; a table of decisions given out before"
                : "CSV, XLSX (a column of addresses, one of titles), text, sitemap, WARC, also .gz"}
            </span>
          </div>
          <Told error={look.error ?? held.error ?? forget.error} />
        </div>
        {old && <RecordSources />}
        <Taken old={old} lists={held.data} onForget={(number) => forget.mutate(number)} />
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
          <>
            {old && ["table", "lines"].includes(look.data.form) && (
              <div className="filters" style={{ padding: "8px 12px 0" }}>
                <button
                  className={`chip${asRecords ? "" : " on"}`}
                  aria-pressed={!asRecords}
                  onClick={() => setAs(false)}
                >
                  as addresses
                </button>
                <button
                  className={`chip${asRecords ? " on" : ""}`}
                  aria-pressed={asRecords}
                  onClick={() => setAs(true)}
                >
                  as records
                </button>
              </div>
            )}
            {asRecords ? (
              <div className="scroll" tabIndex={0} role="region" aria-label="Records of the file">
                <Records key={look.data.token} token={look.data.token} name={name} />
              </div>
            ) : (
              <Weighing
                key={look.data.token}
                looked={look.data}
                name={name}
                onDone={() => (look.reset(), setText(""))}
              />
            )}
          </>
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
