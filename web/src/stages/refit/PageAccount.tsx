/** What of a page is not in its blocks: runs of words, links, pictures, files, frames and anchors, each with the reason. */
import type { Schemas } from "../../api/client";
import { count, many, useLink } from "../../shell/state";
import { ODD } from "./words";

export const THINGS: Record<string, string> = {
  links: "links",
  pictures: "pictures",
  files: "documents",
  frames: "frames",
  anchors: "anchors",
  backgrounds: "backgrounds",
};

const lastOf = (where: string) => where.split(" > ").slice(-2).join(" > ");
const cut = (text: string) => (text.length > 140 ? `${text.slice(0, 140)}…` : text);

interface Props {
  body: Schemas["BodyDetail"];
  onShow: (node: number) => void;
}

/** What a form that was written has not, or has more, than the blocks. */
function differs(d: Schemas["WritingDiffers"]): string {
  const said = d.said.slice(0, 6).join(" · ");
  return `${d.form} ${d.lost ? "lost" : "added"} ${count(d.number)} ${d.what}: ${said}`;
}

export function PageAccount({ body, onShow }: Props) {
  const link = useLink();
  const step = (suggest: string) => link.set({ tab: "shared", suggest });
  const { missing, lost, unlisted } = body.account;
  const things = body.account.things.filter((t) => t.have);
  const { raw_words, left_out, differs: written } = body.writing;
  const told = [
    ...things.map(
      (t) =>
        `${THINGS[t.name] ?? t.name} ${t.kept} of ${t.have}` +
        (t.name === "anchors" ? `, aimed at by ${many(body.account.aimed, "link")}` : ""),
    ),
    ...(raw_words ? [`${many(raw_words, "word")} in raw HTML`] : []),
    ...Object.entries(left_out).map(([odd, n]) => `${ODD[odd] ?? odd} left out: ${count(n)}`),
  ].join(" · ");
  const row = (key: string, open: boolean, text: string, where: string, node: number, why: string) => (
    <tr key={key}>
      <td style={{ color: open ? "var(--orange)" : undefined }}>
        <button className="linkish" style={{ textAlign: "left", color: "inherit" }} onClick={() => onShow(node)}>
          {cut(text)}
        </button>
        <div className="mono soft">{where}</div>
      </td>
      <td className="n">
        {open && !why ? (
          <button className="linkish" onClick={() => step(`|${lastOf(where)}`)}>
            make a step
          </button>
        ) : (
          <span className="soft">{why}</span>
        )}
      </td>
    </tr>
  );
  const nothing = !missing.length && !lost.length && !written.length && !body.doubts.length;
  return (
    <section className="panel" style={{ flex: 1 }} aria-label="Account of this page">
      <h2>
        This page{" "}
        <small>{nothing ? `every word and thing of it is accounted for · ${told || "words alone"}` : told}</small>
      </h2>
      {!nothing && (
        <div className="scroll" tabIndex={0} role="region" aria-label="What is not in the blocks">
          <table className="plain">
            <tbody>
              {missing.map((m, n) => row(`m${n}`, !m.step, m.text, m.where, m.node, m.step && `step “${m.step}”`))}
              {written.map((d, n) => (
                <tr key={`w${n}`}>
                  <td style={{ color: "var(--orange)" }}>{differs(d)}</td>
                  <td />
                </tr>
              ))}
              {body.doubts.map((d, n) => (
                <tr key={`d${n}`}>
                  <td>
                    <button className="linkish" style={{ textAlign: "left" }} onClick={() => onShow(d.node)}>
                      A table, read as {d.layout ? "one that only arranges" : "data"}, in doubt: {d.seen.join(", ")}
                    </button>
                  </td>
                  <td className="n">
                    <button className="linkish" onClick={() => step(`${d.layout ? "data" : "layout"}|table`)}>
                      decide by a step
                    </button>
                  </td>
                </tr>
              ))}
              {lost.map((x, n) =>
                row(
                  `x${n}`,
                  x.open,
                  `${(THINGS[x.what] ?? x.what).replace(/s$/, "")}: ${x.address}`,
                  x.where,
                  x.node,
                  x.says,
                ),
              )}
            </tbody>
          </table>
        </div>
      )}
      {unlisted > 0 && <div className="soft pad">… and {many(unlisted, "thing")} more.</div>}
    </section>
  );
}
