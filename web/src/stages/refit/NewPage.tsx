/** The refitted body in any form: as a page, Markdown, HTML, blocks, or its words against the old ones. */
import type { Schemas } from "../../api/client";
import { count, useCrossingId, useLink } from "../../shell/state";
import { Addr } from "../../shores/Addr";
import { PageView, type Mark } from "../../shores/PageView";
import { Blocks } from "./Blocks";
import { WordDiff } from "../../shores/WordDiff";

const FORMS = [
  ["page", "Page"],
  ["markdown", "Markdown"],
  ["html", "HTML"],
  ["blocks", "Blocks"],
  ["words", "Words"],
  ["hand", "By hand"],
] as const;
const WIDTHS = ["375", "1280"];

export function NewPage({
  body,
  scroll,
  marks,
  onScroll,
  onPick,
}: {
  body: Schemas["BodyDetail"];
  scroll: { part: number; by: number } | undefined;
  marks: Mark[];
  onScroll: (part: number) => void;
  onPick: (node: number) => void;
}) {
  const id = useCrossingId();
  const link = useLink();
  const form = link.get("form") || "page";
  const width = link.get("width");
  return (
    <section className="shore new" aria-label="New page">
      <h2>
        New <small>{body.new_path ? <Addr of={body.new_path} /> : "no address yet"}</small>
        <span className="sp" />
        {form === "page" && (
          <span className="tabs" role="group" aria-label="Width">
            {WIDTHS.map((px) => (
              <button
                key={px}
                className={`chip${width === px ? " on" : ""}`}
                aria-pressed={width === px}
                title={`As a screen of ${px} pixels shows it`}
                onClick={() => link.set({ width: width === px ? null : px }, true)}
              >
                {px}
              </button>
            ))}
          </span>
        )}
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
      <div className={width === "375" && form === "page" ? "bodyframe narrow" : "bodyframe"}>
        {form === "page" && (
          <PageView
            key={`${body.item} ${width}`}
            wide={width === "1280" ? 1280 : undefined}
            path={`/body/${id}/${body.item}/${body.field}/${body.new_preview}`}
            title={`New page ${body.title}`}
            scroll={scroll}
            marks={marks}
            onScroll={onScroll}
            onPick={onPick}
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
        {form === "hand" && <Blocks key={`${body.item} ${body.field}`} body={body} />}
        {form === "words" && (
          <div
            className="sheet"
            dir="auto"
            style={{ fontFamily: "inherit" }}
            tabIndex={0}
            role="region"
            aria-label="Words"
          >
            <table className="plain measures">
              <thead>
                <tr>
                  <th />
                  {body.measures.map((one) => (
                    <th key={one.name} className="n">
                      {one.name}
                    </th>
                  ))}
                </tr>
              </thead>
              <tbody>
                {(["old", "new"] as const).map((side) => (
                  <tr key={side}>
                    <th>{side}</th>
                    {body.measures.map((one) => (
                      <td key={one.name} className={one.old === one.new ? "n" : "n state odd"}>
                        {count(one[side])}
                      </td>
                    ))}
                  </tr>
                ))}
              </tbody>
            </table>
            <WordDiff before={body.old_text} after={body.new_text} />
          </div>
        )}
      </div>
    </section>
  );
}
