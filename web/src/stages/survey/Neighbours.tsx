/** The addresses that an address is linked with, and those it is like. */
import type { Schemas } from "../../api/client";
import { Addr } from "../../shores/Addr";

const ALIKE: Record<string, string> = {
  same: "the same content",
  near: "nearly the same",
  spelling: "maybe one address",
};

export function Links({ links, onOpen }: { links: Schemas["LinkRow"][]; onOpen: (id: number) => void }) {
  return (
    <div className="scroll" tabIndex={0} role="region" aria-label="Links">
      <table className="plain">
        <tbody>
          {links.map((l, n) => (
            <tr key={n}>
              <td className="mono">
                <button
                  className="linkish mono"
                  style={{ textAlign: "left", overflowWrap: "anywhere" }}
                  onClick={() => onOpen(l.id)}
                >
                  <Addr of={l.url.replace(/^https?:\/\/[^/]+/, "") || l.url} whole />
                </button>
                {l.words && (
                  <div className="soft" style={{ fontFamily: "Barlow" }}>
                    “{l.words}”
                  </div>
                )}
              </td>
              <td className="soft nowrap">{l.how}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {!links.length && <div className="empty">None.</div>}
    </div>
  );
}

export function Alike({ rows, onOpen }: { rows: Schemas["LikeRow"][]; onOpen: (id: number) => void }) {
  return (
    <div className="scroll" tabIndex={0} role="region" aria-label="Alike">
      <table className="plain">
        <tbody>
          {rows.map((other) => (
            <tr key={other.type + other.id}>
              <td>
                <button
                  className="linkish mono"
                  style={{ textAlign: "left", overflowWrap: "anywhere" }}
                  onClick={() => onOpen(other.id)}
                >
                  {other.key}
                </button>
                <div className="soft">{other.title}</div>
              </td>
              <td>
                {ALIKE[other.type] ?? other.type}
                {other.why && <div className="soft">{other.why}</div>}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
