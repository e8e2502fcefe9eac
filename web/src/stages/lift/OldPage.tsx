/** The captured page of the kind in view, its values marked; a click teaches the field that is open. */
import { useCrossingId, count } from "../../shell/state";
import { PageView, type Mark } from "../../shores/PageView";
import { Empty } from "../../shores/Told";
import type { useKindPages } from "./queries";
import { off } from "../../shell/off";

interface Props {
  pages: ReturnType<typeof useKindPages>;
  marks: Mark[];
  fate: string[];
  lifting: boolean;
  section?: { key: string; at: number; of: number; onTurn: (by: number) => void }; // that is the item in sight
  onPick: (node: number) => void;
  onLift: () => void;
}

export function OldPage({ pages, marks, fate, lifting, section, onPick, onLift }: Props) {
  const id = useCrossingId();
  const { row: page, step } = pages;
  return (
    <section className="shore old" style={{ flex: 1.7 }} aria-label="Old page">
      <h2>
        Old page{" "}
        <small className="mono">
          {page ? `${page.key} · ${count(pages.index + 1)} of ${count(pages.total)}` : pages.total ? "…" : "none"}
        </small>
        <span className="sp" />
        {section && (
          <>
            <button
              className="linkish"
              onClick={() => section.onTurn(-1)}
              {...off([section.at === 0, "It is the first."])}
            >
              ‹ <kbd>[</kbd>
            </button>
            <small title={section.key}>
              section {count(section.at + 1)} of {count(section.of)}
            </small>
            <button
              className="linkish"
              onClick={() => section.onTurn(1)}
              {...off([section.at >= section.of - 1, "It is the last."])}
            >
              <kbd>]</kbd> ›
            </button>
          </>
        )}
        <button className="linkish" onClick={() => step(-1)} {...off([pages.index === 0, "It is the first."])}>
          ‹ <kbd>K</kbd>
        </button>
        <button
          className="linkish"
          onClick={() => step(1)}
          {...off([pages.index >= pages.total - 1, "It is the last."])}
        >
          <kbd>J</kbd> ›
        </button>
        <button
          className="linkish"
          {...off([!page, "No page is chosen."], [lifting, "The page is being lifted."])}
          onClick={onLift}
        >
          lift this page again
        </button>
      </h2>
      {page?.why && (
        <p className="soft" style={{ margin: "0 12px 8px" }}>
          No item is made of this page: {page.why}.
        </p>
      )}
      <div className="bodyframe">
        {page ? (
          <PageView
            key={page.address}
            path={`/page/${id}/${page.address}/${page.preview}`}
            title={`Old page ${page.key}`}
            marks={marks}
            onPick={onPick}
          />
        ) : pages.total || !pages.ready ? null : fate.length ? (
          <Empty
            title="No page of this kind has this fate."
            action="To the addresses"
            to={`survey?${fate.map((f) => `fate=${encodeURIComponent(f)}`).join("&")}`}
          >
            Files and addresses without a page of their own are in the survey's list.
          </Empty>
        ) : (
          <Empty title="No page is in this kind yet." action="To the kinds" to={"sort"}>
            Sort the pages first; then they can be read here.
          </Empty>
        )}
      </div>
    </section>
  );
}
