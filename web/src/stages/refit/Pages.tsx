/** Body by body: the old page with its lost words, the new one in any form, and where each word went. */
import { useState } from "react";
import { useKeys } from "../../shell/keys";
import { count, many, useCrossingId, useLink } from "../../shell/state";
import { Addr } from "../../shores/Addr";
import { useFates } from "../../shores/FateChip";
import { PageView } from "../../shores/PageView";
import { Told } from "../../shores/Told";
import { NewPage } from "./NewPage";
import { PageAccount } from "./PageAccount";
import { useBodies, useBody } from "./queries";
import { Steps } from "./Steps";
import { off } from "../../shell/off";

export function Pages() {
  const id = useCrossingId();
  const link = useLink();
  const fate = useFates();
  const [left, setLeft] = useState<{ part: number; by: number }>();
  const [right, setRight] = useState<{ part: number; by: number }>();
  const [suggested, setSuggested] = useState("");
  const [show, setShow] = useState<number>();
  const walk = useBodies(
    fate,
    link.get("construct"),
    link.get("item"),
    link.get("field"),
    (r) => (setShow(undefined), link.set({ item: r.item, field: r.field }, true)),
  );
  const { row, step } = walk;
  const body = useBody(row);
  useKeys([
    { key: "j", says: "next body", run: () => step(1) },
    { key: "k", says: "previous body", run: () => step(-1) },
  ]);
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
                onScroll={(part) => setRight({ part, by: Date.now() })}
              />
            )}
          </div>
        </section>
        {body.data ? (
          <NewPage body={body.data} scroll={right} onScroll={(part) => setLeft({ part, by: Date.now() })} />
        ) : (
          <section className="shore new" aria-label="New page">
            <div className="pad">
              <Told error={body.error} />
            </div>
          </section>
        )}
      </div>
      <div className="shores" style={{ flex: "0 1 auto", maxHeight: "36%" }}>
        {body.data && <PageAccount body={body.data} onShow={setShow} onStep={setSuggested} />}
        <Steps suggested={suggested} />
      </div>
    </>
  );
}
