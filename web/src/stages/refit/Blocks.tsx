/** The blocks of a body, changed by hand with keys: text, kind, order; taken out, put in, joined, split. */
import { Button, MenuItem, TextField } from "@mui/material";
import { useEffect, useRef, useState, type KeyboardEvent } from "react";
import type { Schemas } from "../../api/client";
import { many } from "../../shell/state";
import { BUSY, off } from "../../shell/off";
import { useUnsaved } from "../../shell/unsaved";
import { Told } from "../../shores/Told";
import { KINDS, kindOf, inner, joined, written, type Kind } from "./blocks";
import { useBlocks, useChangeBlocks, type BlockChange } from "./queries";
import { construct } from "./words";

type Row = Schemas["BlockRow"];

export function Blocks({ body }: { body: Schemas["BodyDetail"] }) {
  const blocks = useBlocks(body.item, body.field);
  const change = useChangeBlocks(body.key, body.field);
  const rows = blocks.data ?? [];
  const [at, setAt] = useState(0);
  const [writing, setWriting] = useState<"" | "set" | "after">("");
  const list = useRef<HTMLDivElement>(null);
  const here = Math.min(at, Math.max(0, rows.length - 1));
  const row = rows[here];
  useEffect(() => {
    if (!writing) list.current?.querySelector<HTMLElement>(`[data-n="${here}"]`)?.focus({ preventScroll: false });
  }, [here, writing, rows.length]);
  const apply = (says: string, ...changes: BlockChange[]) => change.mutate({ says, changes });
  const beside = (step: number) => rows[here + step];
  /** Two blocks that stand beside each other change places: each gets what the other is. */
  const move = (step: number) => {
    const other = beside(step);
    if (!row || !other || row.dropped || other.dropped) return;
    apply("blocks in another order", set(row, other.html), set(other, row.html));
    setAt(here + step);
  };
  const merge = () => {
    const next = beside(1);
    if (row && next && !row.dropped && !next.dropped)
      apply("two blocks joined", set(row, joined(row.html, next.html)), edit(next, "drop"));
  };
  const restore = () => {
    if (!row) return;
    const laid = (["set", "drop", "after"] as const).filter(
      (act) => ({ set: row.edited, drop: row.dropped, after: row.after !== "" })[act],
    );
    if (laid.length)
      apply("a block as it was found", ...laid.map((act): BlockChange => ({ ...edit(row, act), gone: true })));
  };
  const acts: Record<string, () => void> = {
    ArrowDown: () => setAt(Math.min(here + 1, rows.length - 1)),
    ArrowUp: () => setAt(Math.max(here - 1, 0)),
    e: () => setWriting("set"),
    n: () => setWriting("after"),
    d: () => row && !row.dropped && apply("a block taken out", edit(row, "drop")),
    m: merge,
    "[": () => move(-1),
    "]": () => move(1),
    Backspace: restore,
  };
  const onKey = (e: KeyboardEvent) => {
    const act = acts[e.key];
    if (!act || e.ctrlKey || e.metaKey || e.altKey || writing) return;
    e.preventDefault();
    e.stopPropagation();
    act();
  };
  const busy: [boolean, string] = [change.isPending, BUSY];
  return (
    <div className="blocks">
      <Told error={blocks.error ?? change.error} />
      <div className="acts pad">
        {(
          [
            ["e", "change", [!row, "There is no block."]],
            ["n", "put in after it", [!row, "There is no block."]],
            ["d", "take out", [!row || row.dropped, "It is taken out already."]],
            ["m", "join with the next", [!beside(1), "It is the last."]],
            ["[", "earlier", [!beside(-1), "It is the first."]],
            ["]", "later", [!beside(1), "It is the last."]],
            [
              "Backspace",
              "as it was found",
              [!row || !(row.edited || row.dropped || row.after), "Nothing lies over it."],
            ],
          ] as [string, string, [boolean, string]][]
        ).map(([name, says, not]) => (
          <button key={name} className="linkish" onClick={() => acts[name]?.()} {...off(busy, not)}>
            {says} <kbd>{name === "Backspace" ? "⌫" : name.toUpperCase()}</kbd>
          </button>
        ))}
      </div>
      <div className="scroll" ref={list} role="listbox" aria-label="Blocks" onKeyDown={onKey}>
        {rows.map((one, n) => (
          <div
            key={one.id + n}
            data-n={n}
            role="option"
            tabIndex={n === here ? 0 : -1}
            aria-selected={n === here}
            className={`block${n === here ? " on" : ""}${one.dropped ? " out" : ""}`}
            onClick={() => setAt(n)}
            onDoubleClick={() => (setAt(n), setWriting("set"))}
          >
            <small>{one.type ? construct(one.type).toLowerCase() : "no block there any more"}</small>
            <span dir="auto">{one.text || <span className="soft">nothing to read</span>}</span>
            <em>
              {one.conflict && <b className="state odd">conflict: what lies under it has changed</b>}
              {one.edited && " set by hand"}
              {one.dropped && " taken out"}
              {one.after && " something follows it"}
            </em>
          </div>
        ))}
        {blocks.data && !rows.length && <div className="empty">The body has no block.</div>}
      </div>
      {writing && row && (
        <Editor
          key={`${row.id} ${writing}`}
          row={row}
          after={writing === "after"}
          busy={busy}
          onDone={() => setWriting("")}
          onSave={(html) => {
            const back: BlockChange[] = writing === "set" && row.dropped ? [{ ...edit(row, "drop"), gone: true }] : [];
            const says = writing === "after" ? "a block put in" : "a block changed";
            apply(says, edit(row, writing, html), ...back);
            setWriting("");
          }}
        />
      )}
    </div>
  );
}

/** An edit of a block: the one that lies over it already, though the block has moved, else a new one. */
const edit = (row: Row, act: BlockChange["act"], value?: string): BlockChange => ({
  block: row.laid[act] ?? row.id,
  over: row.hash,
  act,
  value,
});
const set = (row: Row, html: string) => edit(row, "set", html);

function Editor({
  row,
  after,
  busy,
  onDone,
  onSave,
}: {
  row: Row;
  after: boolean;
  busy: [boolean, string];
  onDone: () => void;
  onSave: (html: string) => void;
}) {
  const was = after ? row.after : row.html;
  const [kind, setKind] = useState<Kind>(was ? kindOf(was) : "p");
  const [text, setText] = useState(was ? inner(was, kindOf(was)) : "");
  const html = written(text, kind);
  const dirty = html.trim() !== was.trim();
  useUnsaved("block", dirty ? "the block" : "");
  const several = kind !== "html" && kind !== "pre" ? text.split(/\n\s*\n/).filter((one) => one.trim()).length : 1;
  return (
    <form
      className="form"
      aria-label={after ? "What follows the block" : "The block"}
      onSubmit={(e) => {
        e.preventDefault();
        if (dirty && text.trim()) onSave(html);
      }}
      onKeyDown={(e) => {
        if (e.key === "Escape") onDone();
        if (e.key === "Enter" && (e.ctrlKey || e.metaKey) && dirty && text.trim()) onSave(html);
        e.stopPropagation();
      }}
    >
      <TextField select label="It is" value={kind} onChange={(e) => setKind(e.target.value as Kind)}>
        {KINDS.map(([name, says]) => (
          <MenuItem key={name} value={name}>
            {says}
          </MenuItem>
        ))}
      </TextField>
      <TextField
        multiline
        minRows={4}
        maxRows={14}
        autoFocus
        label={kind === "html" ? "Its HTML" : "Its text (with tags for marks and links)"}
        helperText={
          several > 1 ? `An empty line parts it: ${many(several, "block")}.` : "An empty line parts it into two blocks."
        }
        value={text}
        onChange={(e) => setText(e.target.value)}
        onFocus={(e) => e.target.setSelectionRange(e.target.value.length, e.target.value.length)}
        slotProps={{ htmlInput: { className: "mono", dir: "auto" } }}
      />
      <div className="acts">
        <Button
          type="submit"
          variant="contained"
          {...off(busy, [!text.trim(), "Write something, or take the block out."], [!dirty, "Nothing is changed."])}
        >
          Set by hand <kbd style={{ marginLeft: 5 }}>Ctrl ↵</kbd>
        </Button>
        <Button onClick={onDone}>Leave it</Button>
      </div>
    </form>
  );
}
