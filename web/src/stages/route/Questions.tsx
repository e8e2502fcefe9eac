/** What only the owner of the old site can tell: asked, given out as a sheet, answered here or by the sheet. */
import { Button, MenuItem, TextField } from "@mui/material";
import { useRef, useState } from "react";
import { BUSY, off } from "../../shell/off";
import { count, many, useCrossingId, useLink, when } from "../../shell/state";
import { allSaved, useUnsaved } from "../../shell/unsaved";
import { Addr } from "../../shores/Addr";
import { LongList, NONE, type Column, type Picked } from "../../shores/LongList";
import { Empty, Told } from "../../shores/Told";
import { useAnswer, useQuestionCounts, useQuestionRows, useQuestionSheet, type QuestionRow } from "./questionQueries";

const leads = (r: QuestionRow) =>
  r.origin === "question" && r.target ? (
    <Addr of={`→ ${r.target}`} />
  ) : r.fate && r.fate !== "unaccounted" ? (
    <span className="soft">decided by {r.origin}</span>
  ) : r.address ? (
    <span className="hot">nowhere</span>
  ) : (
    <span className="soft">no address any more</span>
  );

const COLUMNS: Column<QuestionRow>[] = [
  { id: "key", label: "old address", width: 220, grow: true, look: "mono", cell: (r) => <Addr of={r.key} /> },
  { id: "title", label: "title", width: 130, grow: true, cell: (r) => r.title },
  { id: "visits", label: "visits", width: 54, look: "num", cell: (r) => (r.visits ? count(r.visits) : "") },
  { id: "asked", label: "question", width: 180, grow: true, cell: (r) => <span title={r.asked}>{r.asked}</span> },
  { id: "leads", label: "leads now", width: 150, grow: true, look: "mono", cell: leads },
  {
    id: "answer",
    label: "answer",
    width: 130,
    grow: true,
    cell: (r) =>
      r.answer ? <span title={`${r.answer} (${r.by || "nobody named"}, ${when(r.at)})`}>{r.answer}</span> : <b>open</b>,
  },
];
const STATES = ["open", "answered"] as const;
const ANSWERS = ["moved", "stays", "retired", "set aside"] as const;
const SAYS = {
  moved: "moved: to a new address",
  stays: "stays where it is",
  retired: "retired: gone on purpose (410)",
  "set aside": "set aside: left out, with a reason",
};
const SHOWN = 8;

function Sheet() {
  const id = useCrossingId();
  const file = useRef<HTMLInputElement>(null);
  const sheet = useQuestionSheet();
  const read = sheet.data;
  return (
    <>
      <div className="acts">
        {(["csv", "xlsx"] as const).map((form) => (
          <Button
            key={form}
            variant="outlined"
            component="a"
            href={`/api/crossings/${id}/questions/file/${form}`}
            download
          >
            Give out ({form.toUpperCase()})
          </Button>
        ))}
        <Button variant="outlined" onClick={() => file.current?.click()} {...off([sheet.isPending, BUSY])}>
          Bring back
        </Button>
        <input
          ref={file}
          type="file"
          accept=".csv,.xlsx,.txt"
          aria-label="A sheet of answers"
          style={{ display: "none" }}
          onChange={(e) => {
            const chosen = e.target.files?.[0];
            if (chosen) sheet.mutate(chosen);
            e.target.value = "";
          }}
        />
      </div>
      <Told error={sheet.error} />
      {read && (
        <div role="status">
          <p style={{ margin: 0 }}>
            {many(read.answered, "answer")} taken{read.answered > 0 && " (Z takes them back)"},{" "}
            {many(read.empty, "row")} without an answer.
            {read.refused > 0 && ` ${many(read.refused, "row")} could not be taken, and changed nothing:`}
          </p>
          <ul style={{ margin: "4px 0 0", paddingLeft: 18 }}>
            {read.bad.slice(0, SHOWN).map((row) => (
              <li key={row.number}>
                row {row.number}, <span className="mono">{row.address}</span>: {row.why}
              </li>
            ))}
            {read.refused > SHOWN && <li className="soft">and {count(read.refused - SHOWN)} more</li>}
          </ul>
        </div>
      )}
    </>
  );
}

export function Questions() {
  const link = useLink();
  const [picked, setPicked] = useState<Picked>(NONE);
  const [answer, setAnswer] = useState<(typeof ANSWERS)[number]>("moved");
  const [to, setTo] = useState("");
  const [why, setWhy] = useState("");
  const [who, setWho] = useState("");
  const search = link.get("search");
  const state = link.get("state") as (typeof STATES)[number] | "";
  const { view, load, known } = useQuestionRows(search, state);
  const counts = useQuestionCounts();
  const { take, withdraw } = useAnswer();
  useUnsaved("answer", to || why ? "an answer of the owner" : "");
  const rows = [...picked.ids].map(known).filter((r): r is QuestionRow => !!r);
  const open = rows.filter((r) => !r.answer);
  const done = () => {
    allSaved();
    setPicked(NONE);
    setTo("");
    setWhy("");
  };
  const all = (counts.data?.open ?? 0) + (counts.data?.answered ?? 0);
  if (counts.data && !all)
    return (
      <section className="panel" style={{ flex: 1 }} aria-label="Questions">
        <Told error={counts.error} />
        <Empty title="The owner is asked about nothing.">
          What only the owner can tell is asked under Open (Q), or of chosen addresses in any list. Until it is answered
          an address leads to the page above it, and counts as provisional.
        </Empty>
      </section>
    );
  return (
    <div className="shores">
      <section className="panel" style={{ flex: 1 }} aria-label="Questions">
        <div className="filters">
          <input
            className="find"
            placeholder="find in questions"
            aria-label="find in questions"
            value={search}
            onChange={(e) => link.set({ search: e.target.value }, true)}
          />
          {STATES.map((one) => (
            <button
              key={one}
              className={`chip${state === one ? " on" : ""}`}
              aria-pressed={state === one}
              onClick={() => link.set({ state: state === one ? null : one }, true)}
            >
              {one} <b>{count(counts.data?.[one])}</b>
            </button>
          ))}
          <span className="sp" />
          <span className="soft">
            {many(counts.data?.provisional ?? 0, "address leads", "addresses lead")} on for now
          </span>
        </div>
        <Told error={counts.error} />
        <LongList<QuestionRow>
          name="questions"
          label="Questions"
          columns={COLUMNS}
          view={view}
          load={load}
          picked={picked}
          onPicked={setPicked}
          singly
          empty={<div className="empty">No question fits these words.</div>}
          foot={(n) =>
            n > 0 && (
              <Button
                variant="outlined"
                sx={{ ml: "auto" }}
                onClick={() =>
                  withdraw.mutate(
                    rows.map((r) => r.key),
                    { onSuccess: done },
                  )
                }
                {...off([withdraw.isPending, BUSY])}
              >
                Ask {count(n)} no longer
              </Button>
            )
          }
        />
      </section>
      <section className="panel" style={{ flex: "0 0 340px" }} aria-label="Answers">
        <h2>The owner’s answers</h2>
        <div className="scroll">
          <div className="form">
            <Sheet />
          </div>
          <form
            className="form"
            aria-label="Answer"
            onSubmit={(e) => {
              e.preventDefault();
              take.mutate({ keys: open.map((r) => r.key), answer, to, why, who }, { onSuccess: done });
            }}
          >
            <p className="soft" style={{ margin: 0 }}>
              {open.length
                ? `${many(open.length, "open question")} chosen. The answer takes the place of where ${open.length === 1 ? "it leads" : "they lead"} for now.`
                : "Choose open questions at the left, and write what the owner said of them."}
            </p>
            <TextField
              select
              label="The owner says"
              value={answer}
              onChange={(e) => setAnswer(e.target.value as (typeof ANSWERS)[number])}
            >
              {ANSWERS.map((one) => (
                <MenuItem key={one} value={one}>
                  {SAYS[one]}
                </MenuItem>
              ))}
            </TextField>
            {answer === "moved" && (
              <TextField
                label="New address"
                placeholder="/new/place"
                value={to}
                onChange={(e) => setTo(e.target.value)}
                slotProps={{ htmlInput: { className: "mono", spellCheck: false } }}
              />
            )}
            <TextField label="Why, in the owner’s words" value={why} onChange={(e) => setWhy(e.target.value)} />
            <TextField label="Who says so" value={who} onChange={(e) => setWho(e.target.value)} />
            <Told error={take.error ?? withdraw.error} />
            {(take.data ?? withdraw.data) && (
              <p role="status">{(take.data ?? withdraw.data)?.text}. Z takes it back.</p>
            )}
            <div className="acts">
              <Button
                type="submit"
                variant="contained"
                {...off(
                  [!open.length, "Choose open questions first."],
                  [answer === "moved" && !to.trim(), "Write the new address first."],
                  [take.isPending, BUSY],
                )}
              >
                Take the answer
              </Button>
            </div>
          </form>
        </div>
      </section>
    </div>
  );
}
