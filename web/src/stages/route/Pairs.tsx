/** Pairs: single old addresses with their new ones; pasted, changed, taken out. */
import { Button, TextField } from "@mui/material";
import { useState } from "react";
import { count, many, useLink, useSetPairs } from "../../shell/state";
import { useUnsaved } from "../../shell/unsaved";
import { FateMark } from "../../shores/Fate";
import { LongList, NONE, type Column, type Picked } from "../../shores/LongList";
import { Told } from "../../shores/Told";
import { Addr } from "../../shores/Addr";
import { useLines, usePairRows, type PairRow } from "./queries";
import { BUSY, off } from "../../shell/off";

const COLUMNS: Column<PairRow>[] = [
  { id: "old", label: "old", width: 240, grow: true, look: "mono", cell: (r) => <Addr of={r.old} /> },
  {
    id: "new",
    label: "new",
    width: 240,
    grow: true,
    look: "mono",
    cell: (r) => (r.status === 410 ? "gone (410)" : r.new === r.old ? "stays" : <Addr of={`→ ${r.new}`} />),
  },
  { id: "match", label: "match", width: 64, cell: (r) => r.match },
  { id: "status", label: "answer", width: 60, look: "num", cell: (r) => r.status },
  { id: "reason", label: "why", width: 120, grow: true, cell: (r) => r.reason },
  { id: "verdict", label: "last check", width: 110, cell: (r) => r.verdict || "not seen yet" },
  {
    id: "fate",
    label: "fate",
    width: 46,
    look: "mid",
    cell: (r) => (r.fate ? <FateMark fate={r.fate} proven={r.proven} /> : <span className="soft">·</span>),
  },
];

const SHOWN = 8; // refused lines with their reasons

/** A pair as a line of the text. */
const written = (r: PairRow) =>
  [
    r.old,
    r.status === 410 ? "410" : r.new,
    ...(r.status === 301 || r.status === 410 ? [] : [String(r.status)]),
    ...(r.match === "exact" ? [] : [r.match]),
  ].join("\t");

export function Pairs() {
  const link = useLink();
  const save = useSetPairs();
  const [text, setText] = useState("");
  const [picked, setPicked] = useState<Picked>(NONE);
  const search = link.get("search");
  const { view, load, old } = usePairRows(search);
  useUnsaved("pairs", text ? "pasted pairs" : "");
  const lines = useLines();
  const refused = lines.data?.refused ?? [];
  const drop = () => {
    const olds = [...picked.ids].map(old).filter((o): o is string => !!o);
    save.mutate({ drop: olds, text: `${many(olds.length, "pair")} taken out` }, { onSuccess: () => setPicked(NONE) });
  };
  return (
    <div className="shores">
      <section className="panel" style={{ flex: 1 }} aria-label="Pairs">
        <div className="filters">
          <input
            className="find"
            placeholder="find in pairs"
            aria-label="find in pairs"
            value={search}
            onChange={(e) => link.set({ search: e.target.value }, true)}
          />
        </div>
        <LongList<PairRow>
          name="pairs"
          label="Pairs"
          columns={COLUMNS}
          view={view}
          load={load}
          picked={picked}
          onPicked={setPicked}
          singly
          onOpen={(r) => setText((had) => `${had}${had && !had.endsWith("\n") ? "\n" : ""}${written(r)}\n`)}
          empty={
            <div className="empty">
              There is no pair yet. A pair leads one old address to one new one; paste some at the right.
            </div>
          }
          foot={(n) =>
            n > 0 && (
              <Button variant="outlined" onClick={drop} sx={{ ml: "auto" }}>
                Take {count(n)} out
              </Button>
            )
          }
        />
      </section>
      <form
        className="panel"
        style={{ flex: "0 0 360px" }}
        aria-label="Paste pairs"
        onSubmit={(e) => {
          e.preventDefault();
          lines.mutate(text, { onSuccess: (made) => setText(made.refused.map((r) => r.text).join("\n")) });
        }}
      >
        <h2>Paste or write pairs</h2>
        <div className="form scroll">
          <TextField
            multiline
            minRows={8}
            maxRows={18}
            label="old and new, one pair a line"
            placeholder={"/old/page.htm\t/new/page\n/gone.htm\t410"}
            value={text}
            onChange={(e) => setText(e.target.value)}
            slotProps={{ htmlInput: { className: "mono", spellCheck: false } }}
          />
          <p className="soft" style={{ margin: 0 }}>
            Two columns out of a sheet can be pasted as they are. Full old addresses are cut to their path. 410, or
            nothing at the right, retires; “prefix” or “pattern” after the new address says how the old one is met. A
            pair takes the place of the one with the same old address.
          </p>
          <Told error={lines.error ?? save.error} />
          {lines.data && (
            <div role="status">
              <p style={{ margin: 0 }}>
                {many(lines.data.set, "pair")} set
                {lines.data.cut > 0 && `, ${count(lines.data.cut)} without the host they named, which is ours`}.
                {Object.entries(lines.data.leave).map(([host, number]) => ` ${count(number)} leave for ${host}.`)}
                {refused.length > 0 && ` ${many(refused.length, "line")} left above, not set:`}
              </p>
              <ul style={{ margin: "4px 0 0", paddingLeft: 18 }}>
                {refused.slice(0, SHOWN).map((r) => (
                  <li key={r.line}>
                    <span className="mono">{r.text}</span>
                    <br />
                    <span className="soft">{r.reason}</span>
                  </li>
                ))}
                {refused.length > SHOWN && <li className="soft">and {count(refused.length - SHOWN)} more</li>}
              </ul>
            </div>
          )}
          <div className="acts">
            <Button
              type="submit"
              variant="contained"
              {...off([!text.trim(), "Nothing is written there yet."], [lines.isPending, BUSY])}
            >
              Set these pairs
            </Button>
          </div>
        </div>
      </form>
    </div>
  );
}
