/** What a clean-up step takes of all pages: read once, where it stands, differs and is missing. */
import { useState } from "react";
import { off } from "../../shell/off";
import { count, many, useCrossingId, useLink } from "../../shell/state";
import { Addr } from "../../shores/Addr";
import { PageView, type Mark } from "../../shores/PageView";
import { Told } from "../../shores/Told";
import { useOnPage, usePart } from "./queries";

export function Part({ place }: { place: number }) {
  const crossing = useCrossingId();
  const link = useLink();
  const part = usePart(place);
  const said = part.data;
  const page = Number(link.get("page")) || said?.address || 0;
  const where = useOnPage(place, page);
  const [as, setAs] = useState<"page" | "markdown">("page");
  const marks: Mark[] = (where.data?.nodes ?? []).map((node) => ({ node, as: "chosen" }));
  const go = (address: number, key: string) => (
    <button className="linkish" aria-pressed={address === page} onClick={() => link.set({ page: address }, true)}>
      <Addr of={key} />
    </button>
  );
  return (
    <section className="shore old" style={{ flex: 1.5 }} aria-label="The part on a page">
      <h2>
        {as === "page" ? "On the old page" : "Read once"} <small>{said ? said.name : "…"}</small>
        <span className="sp" />
        <button
          className="linkish"
          onClick={() => setAs(as === "page" ? "markdown" : "page")}
          {...off([!said?.address, "It is on no page."])}
        >
          {as === "page" ? "what was read" : "the page"}
        </button>
      </h2>
      <Told error={part.error ?? where.error} />
      {as === "markdown" ? (
        <pre className="mono scroll pad" tabIndex={0} style={{ flex: 1, margin: 0, whiteSpace: "pre-wrap" }}>
          {said?.markdown || "(nothing to read: no words, no pictures)"}
        </pre>
      ) : (
        <div className="bodyframe">
          {where.data && (
            <PageView
              key={where.data.address}
              path={`/page/${crossing}/${where.data.address}/${where.data.preview}`}
              title="The part on the old page"
              marks={marks}
              show={where.data.nodes[0]}
            />
          )}
        </div>
      )}
      {said && (
        <div
          className="scroll pad"
          style={{ flex: "0 1 auto", maxHeight: "42%" }}
          tabIndex={0}
          aria-label="Where it is"
        >
          {!said.pages && (
            <p className="state odd">
              <span className="mono">{said.remove}</span> finds nothing on any page with a body.
            </p>
          )}
          {where.data?.nodes.length === 0 && said.pages > 0 && <p className="state odd">It is not on this page.</p>}
          <p style={{ margin: "2px 0" }}>
            {said.kinds.map((k) => `${k.kind} ${count(k.on)} of ${count(k.of)}`).join(" · ")}
          </p>
          <table className="plain">
            <tbody>
              {said.versions.map((one, n) => (
                <tr key={one.address}>
                  <td className="n">{many(one.pages, "page")}</td>
                  <td>{go(one.address, one.key)}</td>
                  <td>
                    {n === 0 ? (
                      <span className="soft">the version that is read</span>
                    ) : (
                      <>
                        {one.more && <ins>+ {one.more}</ins>} {one.less && <del>− {one.less}</del>}
                        {!one.more && !one.less && (
                          <span className="soft">the same words, other addresses or order</span>
                        )}
                      </>
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          {said.versions_all > said.versions.length && (
            <p className="soft">and {many(said.versions_all - said.versions.length, "version")} more</p>
          )}
          {said.missing_all > 0 && (
            <p>
              <b>Missing on {many(said.missing_all, "page")}</b> of kinds most of which have it:{" "}
              {said.missing.slice(0, 30).map((row) => (
                <span key={row.address}>{go(row.address, row.key)} </span>
              ))}
              {said.missing_all > 30 && `and ${count(said.missing_all - Math.min(30, said.missing.length))} more`}
            </p>
          )}
        </div>
      )}
    </section>
  );
}
