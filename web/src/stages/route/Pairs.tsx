/** Pairs: single old addresses with their new ones; pasted, changed, taken out. */
import { Button, TextField } from "@mui/material";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { count, many, useLink, useSetPairs } from "../../shell/state";
import { useUnsaved } from "../../shell/unsaved";
import { FateMark } from "../../shores/Fate";
import { LongList, NONE, type Column, type Picked } from "../../shores/LongList";
import { Told } from "../../shores/Told";
import { Addr } from "../../shores/Addr";
import { usePairRows, type PairRow } from "./queries";

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
  { id: "verdict", label: "last check", width: 110, cell: (r) => r.verdict || "not seen yet" },
  {
    id: "fate",
    label: "fate",
    width: 46,
    look: "mid",
    cell: (r) => (r.fate ? <FateMark fate={r.fate} proven={r.proven} /> : <span className="soft">·</span>),
  },
];

/** Lines “old <tab, comma or arrow> new”; “410” or nothing at the right retires. */
export function readPairs(text: string): Schemas["Pair"][] {
  return text
    .split("\n")
    .map((l) => l.trim())
    .filter(Boolean)
    .map((line) => {
      const [old = "", right = ""] = line.split(/\t|,|\s+->\s+|\s+→\s+|\s+/).map((p) => p.trim());
      const gone = right === "" || right === "410" || right === "gone";
      return { old, new: gone ? "" : right, status: gone ? 410 : 301, match: "exact" } as Schemas["Pair"];
    });
}

export function Pairs() {
  const link = useLink();
  const save = useSetPairs();
  const [text, setText] = useState("");
  const [picked, setPicked] = useState<Picked>(NONE);
  const search = link.get("search");
  const { view, load, old } = usePairRows(search);
  useUnsaved("pairs", text ? "pasted pairs" : "");
  const lines = readPairs(text);
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
          onOpen={(r) =>
            setText(
              (had) => `${had}${had && !had.endsWith("\n") ? "\n" : ""}${r.old}\t${r.status === 410 ? "410" : r.new}\n`,
            )
          }
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
          save.mutate({ set: lines, text: `${many(lines.length, "pair")} set` }, { onSuccess: () => setText("") });
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
            nothing at the right, retires. A pair takes the place of the one with the same old address.
          </p>
          <Told error={save.error} />
          <div className="acts">
            <Button type="submit" variant="contained" disabled={!lines.length || save.isPending}>
              Set {many(lines.length, "pair")}
            </Button>
          </div>
        </div>
      </form>
    </div>
  );
}
