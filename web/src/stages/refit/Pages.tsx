/** Body by body: the old page with its lost words, the new one in any form, and where each word went. */
import { useState } from "react";
import { useKeys } from "../../shell/keys";
import { count, many, useCrossingId, useLink } from "../../shell/state";
import { Addr } from "../../shores/Addr";
import { useFates } from "../../shores/FateChip";
import { PageView, type Mark } from "../../shores/PageView";
import { Told } from "../../shores/Told";
import { NewPage } from "./NewPage";
import { PageAccount } from "./PageAccount";
import { useBodies, useBody } from "./queries";
import { off } from "../../shell/off";

export function Pages() {
  const id = useCrossingId();
  const link = useLink();
  const fate = useFates();
  const [left, setLeft] = useState<{ part: number; by: number }>();
  const [right, setRight] = useState<{ part: number; by: number }>();
  const [show, setShow] = useState<number>();
  const [picked, setPicked] = useState(-1); // a block of the body in sight
  const [numbered, setNumbered] = useState(false);
  const walk = useBodies(
    fate,
    link.get("construct"),
    link.get("item"),
    link.get("field"),
    (r) => (setShow(undefined), setPicked(-1), link.set({ item: r.item, field: r.field }, true)),
  );
  const { row, step } = walk;
  const body = useBody(row);
  useKeys([
    { key: "j", says: "next body", run: () => step(1) },
    { key: "k", says: "previous body", run: () => step(-1) },
    { key: "o", says: "number the blocks in reading order, old and new", run: () => setNumbered(!numbered) },
  ]);
  const blocks = body.data?.block_nodes ?? [];
  const marks = (side: "old" | "new") =>
    blocks.flatMap(({ [side]: node }, n): Mark[] =>
      node >= 0 && (numbered || n === picked)
        ? [{ node, as: n === picked ? "chosen" : "field", says: numbered ? String(n + 1) : undefined }]
        : [],
    );
  /** The block that a node of the new page belongs to, and its place on the old one. */
  const point = (node: number) => {
    const at = blocks.findLastIndex((b) => b.new >= 0 && b.new <= node);
    setPicked(at);
    const old = blocks[at]?.old ?? -1;
    if (old >= 0) setShow(old);
  };
  if (!row) return <Told error={walk.error} />;
  const open = [row.unaccounted && many(row.unaccounted, "word"), row.lost && many(row.lost, "thing")].filter(Boolean);
  return (
    <>
      <div className="beside">
        <section className="shore old" aria-label="Old page">
          <h2>
            Old{" "}
            <small>
              <Addr of={row.key} />
            </small>
            <span className="sp" />
            <small style={open.length ? { color: "var(--orange)", fontWeight: 600 } : undefined}>
              {open.length ? `${open.join(", ")} unaccounted` : `all ${many(row.words, "word")} accounted for`}
            </small>
            <button
              className="linkish"
              aria-pressed={numbered}
              title="Number the blocks in the order in which they are read; a click on a block of the new page marks where it comes from"
              onClick={() => setNumbered(!numbered)}
            >
              order <kbd>O</kbd>
            </button>
            <button className="linkish" onClick={() => step(-1)} {...off([walk.index === 0, "It is the first."])}>
              ‹ <kbd>K</kbd>
            </button>
            <span className="soft" style={{ fontWeight: 400 }}>
              {count(walk.index + 1)}/{count(walk.total)}
            </span>
            <button
              className="linkish"
              onClick={() => step(1)}
              {...off([walk.index >= walk.total - 1, "It is the last."])}
            >
              <kbd>J</kbd> ›
            </button>
          </h2>
          <div className="bodyframe">
            {body.data && (
              <PageView
                key={`${row.item} ${row.unaccounted} ${row.removed}`}
                path={`/page/${id}/${row.address}/${body.data.old_preview}?losses=true`}
                title={`Old page ${row.key}`}
                scroll={left}
                show={show}
                marks={marks("old")}
                onScroll={(part) => setRight({ part, by: Date.now() })}
              />
            )}
          </div>
        </section>
        {body.data ? (
          <NewPage
            body={body.data}
            scroll={right}
            marks={marks("new")}
            onScroll={(part) => setLeft({ part, by: Date.now() })}
            onPick={point}
          />
        ) : (
          <section className="shore new" aria-label="New page">
            <div className="pad">
              <Told error={body.error} />
            </div>
          </section>
        )}
      </div>
      {picked >= 0 && (
        <div className="pad soft" role="status" style={{ flex: "none", padding: "2px 14px" }}>
          Block {picked + 1} of {blocks.length}{" "}
          {(blocks[picked]?.old ?? -1) < 0 && "was written by hand: it stands nowhere on the old page"}
        </div>
      )}
      <div className="shores" style={{ flex: "0 1 auto", maxHeight: "30%" }}>
        {body.data && <PageAccount body={body.data} onShow={setShow} />}
      </div>
    </>
  );
}
