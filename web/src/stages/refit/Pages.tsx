/** Body by body: the old page with its lost words, the new one in any form, and where each word went. */
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { client, take, type Schemas } from "../../api/client";
import { useKeys } from "../../shell/keys";
import { count, many, useCrossingId, useLink } from "../../shell/state";
import { useFates } from "../../shores/FateChip";
import { PageView } from "../../shores/PageView";
import { Told } from "../../shores/Told";
import { useWalk } from "../../shores/walk";
import { WordDiff } from "../../shores/WordDiff";
import { PageAccount } from "./PageAccount";
import { Steps } from "./Steps";
import { Addr } from "../../shores/Addr";

const FORMS = [
  ["page", "Page"],
  ["markdown", "Markdown"],
  ["html", "HTML"],
  ["blocks", "Blocks"],
  ["words", "Words"],
] as const;

function NewSide({
  body,
  scroll,
  onScroll,
}: {
  body: Schemas["BodyDetail"];
  scroll: { part: number; by: number } | undefined;
  onScroll: (part: number) => void;
}) {
  const id = useCrossingId();
  const link = useLink();
  const form = link.get("form") || "page";
  return (
    <section className="shore new" aria-label="New page">
      <h2>
        New <small>{body.new_path ? <Addr of={body.new_path} /> : "no address yet"}</small>
        <span className="sp" />
        <span className="tabs" role="group" aria-label="Form">
          {FORMS.map(([value, label]) => (
            <button
              key={value}
              className={`chip${form === value ? " on" : ""}`}
              aria-pressed={form === value}
              onClick={() => link.set({ form: value }, true)}
            >
              {label}
            </button>
          ))}
        </span>
      </h2>
      <div className="bodyframe">
        {form === "page" && (
          <PageView
            key={body.item}
            path={`/body/${id}/${body.item}/${body.field}/${body.new_preview}`}
            title={`New page ${body.title}`}
            scroll={scroll}
            onScroll={onScroll}
          />
        )}
        {form === "markdown" && (
          <pre className="sheet" tabIndex={0} dir="auto">
            {body.markdown}
          </pre>
        )}
        {form === "html" && (
          <pre className="sheet" tabIndex={0}>
            {body.html}
          </pre>
        )}
        {form === "blocks" && (
          <pre className="sheet" tabIndex={0}>
            {JSON.stringify(body.blocks, null, 1)}
          </pre>
        )}
        {form === "words" && (
          <div
            className="sheet"
            dir="auto"
            style={{ fontFamily: "inherit" }}
            tabIndex={0}
            role="region"
            aria-label="Words"
          >
            <WordDiff before={body.old_text} after={body.new_text} />
          </div>
        )}
      </div>
    </section>
  );
}

const named = (r: { item: number; field: string }) => `${r.item} ${r.field}`;

export function Pages() {
  const id = useCrossingId();
  const link = useLink();
  const fate = useFates();
  const path = { crossing: id };
  const [left, setLeft] = useState<{ part: number; by: number }>();
  const [right, setRight] = useState<{ part: number; by: number }>();
  const [suggested, setSuggested] = useState("");
  const [show, setShow] = useState<number>();
  const walk = useWalk({
    name: "bodies",
    view: [id, fate],
    at: link.get("item") && `${link.get("item")} ${link.get("field")}`,
    idOf: (r: Schemas["BodyRow"]) => (link.get("field") ? named(r) : `${r.item} `),
    load: (offset, limit) =>
      take(client.GET("/api/crossings/{crossing}/bodies", { params: { path, query: { offset, limit, fate } } })),
    find: async (at) => {
      const [item, field = ""] = at.split(" ");
      return (
        await take(
          client.GET("/api/crossings/{crossing}/bodies/position", {
            params: { path, query: { item: Number(item), field, fate } },
          }),
        )
      ).position;
    },
    onAt: (r) => (setShow(undefined), link.set({ item: r.item, field: r.field }, true)),
  });
  const { row, step } = walk;
  const body = useQuery({
    queryKey: ["body", id, row?.item, row?.field],
    enabled: !!row,
    queryFn: () =>
      take(
        client.GET("/api/crossings/{crossing}/bodies/{item}/{field}", {
          params: { path: { ...path, item: row?.item ?? 0, field: row?.field ?? "" } },
        }),
      ),
  });
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
            <button className="linkish" onClick={() => step(-1)} disabled={walk.index === 0}>
              ‹ <kbd>K</kbd>
            </button>
            <span className="soft" style={{ fontWeight: 400 }}>
              {count(walk.index + 1)}/{count(walk.total)}
            </span>
            <button className="linkish" onClick={() => step(1)} disabled={walk.index >= walk.total - 1}>
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
          <NewSide body={body.data} scroll={right} onScroll={(part) => setLeft({ part, by: Date.now() })} />
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
