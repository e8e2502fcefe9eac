/** What people set over what was found: how each lies, and what to do where something under it has changed. */
import type { Schemas } from "../../api/client";
import { useGo } from "../../shell/Go";
import { many, when } from "../../shell/state";
import { Told } from "../../shores/Told";
import { shown } from "../../stages/lift/field";
import { Addr } from "../../shores/Addr";
import { useByHand } from "./queries";

type Row = Schemas["EditRow"];

/** The same edit, to be laid over what is found now. */
function relaid({ old, field, value, by, block, act }: Row): Schemas["Edit"] {
  return { old, field, value, by, block, act, over: "", at: "" };
}

export function ByHand() {
  const go = useGo();
  const { list, settle, start } = useByHand();
  const settled = (edit: Row, keep: boolean) =>
    settle.mutate({
      set: keep ? [relaid(edit)] : [],
      drop: keep ? [] : [{ old: edit.old, field: edit.field, block: edit.block, act: edit.act }],
      text: `${edit.field} of ${edit.old}: ${keep ? "what was set by hand stays" : "what was found is taken"}`,
    });
  const rows = list.data ?? [];
  const odd = rows.filter((r) => r.conflict).length;
  if (list.data && !rows.length) return null;
  return (
    <section className="panel" style={{ flex: "0 1 auto", maxHeight: "46%" }} aria-label="Set by hand">
      <h2>
        Set by hand{" "}
        <small style={odd ? { color: "var(--orange)" } : undefined}>
          {odd ? `under ${many(odd, "value")} something has changed` : many(rows.length, "value")}
        </small>
      </h2>
      <Told error={list.error ?? settle.error ?? start.error} />
      <div className="scroll" tabIndex={0} role="region" aria-label="What was set by hand">
        <table className="plain">
          <tbody>
            {rows.map((r) => (
              <tr key={`${r.old} ${r.field} ${r.block} ${r.act}`}>
                <td className="mono" style={{ overflowWrap: "anywhere" }}>
                  <Addr of={r.old} whole />
                </td>
                <td className="nowrap">{r.field}</td>
                <td>
                  {r.act === "drop" ? <i>a block taken out</i> : shown(r.value).slice(0, 160)}
                  <div className="soft">
                    {r.by || "somebody"}
                    {r.at && `, ${when(r.at)}`}
                    {!r.item && " · waits: no item is made of this page"}
                    {r.conflict && " · what was found here has changed since"}
                  </div>
                </td>
                <td className="n">
                  <span className="links">
                    {r.item > 0 && (
                      <button
                        className="linkish"
                        onClick={() =>
                          void go(
                            `lift?kind=${encodeURIComponent(r.kind)}&page=${r.address}&field=${encodeURIComponent(r.field)}`,
                          )
                        }
                      >
                        look
                      </button>
                    )}
                    {r.conflict && !r.block && (
                      <button className="linkish" onClick={() => settled(r, true)}>
                        keep mine
                      </button>
                    )}
                    <button className="linkish" onClick={() => settled(r, false)}>
                      take what was found
                    </button>
                  </span>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </section>
  );
}
