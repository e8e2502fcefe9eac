/** What stands in the bodies, by count, as it was counted when they were refitted. */
import { count, useLink } from "../../shell/state";
import { Told } from "../../shores/Told";
import { useConstructs } from "./queries";
import { construct } from "./words";

export function Constructs() {
  const link = useLink();
  const constructs = useConstructs();
  return (
    <section className="panel" style={{ flex: 1 }} aria-label="Constructs">
      <h2>
        What is in these bodies <small>by count</small>
      </h2>
      <Told error={constructs.error} />
      <div className="scroll" tabIndex={0} role="region" aria-label="Constructs by count">
        <table className="plain">
          <thead>
            <tr>
              <th>construct</th>
              <th className="n">times</th>
              <th className="n">bodies</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {(constructs.data ?? []).map((c) => (
              <tr key={c.name}>
                <td className={c.name.includes("<") ? "mono" : ""}>{construct(c.name)}</td>
                <td className="n">{count(c.count)}</td>
                <td className="n">
                  <button
                    className="linkish"
                    title="Go through these bodies"
                    onClick={() => link.set({ tab: null, construct: c.name, item: null, field: null, form: "blocks" })}
                  >
                    {count(c.bodies)}
                  </button>
                </td>
                <td className="n">
                  <button
                    className="linkish"
                    onClick={() => link.set({ tab: null, item: c.example, field: null, form: "blocks" })}
                  >
                    an example
                  </button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
        {constructs.data?.length === 0 && (
          <div className="empty">Nothing is counted yet. Refit all bodies; they are counted as they are refitted.</div>
        )}
      </div>
    </section>
  );
}
