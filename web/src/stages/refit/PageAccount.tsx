/** What of a page is not in its blocks: runs of words, links, pictures, files, frames and anchors, each with the reason. */
import type { Schemas } from "../../api/client";
import { many } from "../../shell/state";

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
  onStep: (selector: string) => void;
}

export function PageAccount({ body, onShow, onStep }: Props) {
  const { missing, lost, unlisted } = body.account;
  const things = body.account.things.filter((t) => t.have);
  const told = things.map((t) => `${THINGS[t.name] ?? t.name} ${t.kept} of ${t.have}`).join(" · ");
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
          <button className="linkish" onClick={() => onStep(lastOf(where))}>
            make a step
          </button>
        ) : (
          <span className="soft">{why}</span>
        )}
      </td>
    </tr>
  );
  const nothing = !missing.length && !lost.length;
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
