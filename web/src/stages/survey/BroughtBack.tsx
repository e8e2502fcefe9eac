/** A table of decisions that was given out, altered and brought back: what each altered row would change. */
import { Button } from "@mui/material";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { count, many } from "../../shell/state";
import { Told } from "../../shores/Told";
import { useBroughtBack } from "./listQueries";
import { BUSY, off } from "../../shell/off";

type AlteredRow = Schemas["AlteredRow"];

function Said({ of }: { of: string[] }) {
  const [decision, target, why] = of;
  return (
    <>
      {decision} {target && <span className="mono">{target}</span>}{" "}
      {decision === "set aside" && <span className="soft">{why}</span>}
    </>
  );
}

export function BroughtBack({ token, onDone }: { token: string; onDone: () => void }) {
  const [over, setOver] = useState<Set<number>>(new Set());
  const { asked, accept, start } = useBroughtBack(token, onDone);
  const found = asked.data;
  const taken = found ? (found.counts.altered ?? 0) - (found.counts.meanwhile ?? 0) + over.size : 0;
  const toggle = (row: AlteredRow) =>
    setOver((had) =>
      had.has(row.number) ? new Set([...had].filter((n) => n !== row.number)) : new Set(had).add(row.number),
    );
  return (
    <div className="form scroll">
      <Told error={asked.error ?? accept.error ?? start.error} />
      {found && (
        <>
          <dl
            className="facts"
            style={{ margin: 0, gridTemplateColumns: "150px 1fr" }}
            aria-label="What the table says"
          >
            <dt>Rows</dt>
            <dd>{count(found.rows)}</dd>
            <dt>Not altered</dt>
            <dd>{count(found.same)}, which change nothing</dd>
            <dt>Altered</dt>
            <dd>{count(found.counts.altered ?? 0)}</dd>
            {!!found.counts.meanwhile && (
              <>
                <dt>Decided here since</dt>
                <dd>{count(found.counts.meanwhile)}, which stay as they are unless you take theirs</dd>
              </>
            )}
          </dl>
          <div className="acts">
            <Button
              variant="contained"
              {...off([accept.isPending, BUSY], [!taken, "There is nothing to take over."])}
              onClick={() => accept.mutate([...over])}
            >
              Take {many(taken, "altered row")}
            </Button>
            <Button onClick={onDone}>Leave it</Button>
          </div>
          {found.altered.length > 0 && (
            <table className="plain" aria-label="Altered rows">
              <thead>
                <tr>
                  <th className="n">row</th>
                  <th>address</th>
                  <th>now</th>
                  <th>would be</th>
                  <th />
                </tr>
              </thead>
              <tbody>
                {found.altered.map((row) => (
                  <tr key={row.number}>
                    <td className="n soft">{row.number}</td>
                    <td className="mono" style={{ overflowWrap: "anywhere" }}>
                      {row.address}
                    </td>
                    <td className="soft">
                      <Said of={row.was} />
                    </td>
                    <td>
                      <Said of={row.says} />
                    </td>
                    <td>
                      {row.meanwhile && (
                        <button
                          type="button"
                          className={`chip${over.has(row.number) ? " on" : ""}`}
                          aria-pressed={over.has(row.number)}
                          onClick={() => toggle(row)}
                        >
                          {over.has(row.number) ? "take theirs" : "keep ours"}
                        </button>
                      )}
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
          {(found.counts.altered ?? 0) > found.altered.length && (
            <p className="soft">and {count((found.counts.altered ?? 0) - found.altered.length)} more</p>
          )}
          {found.bad.length > 0 && (
            <details open>
              <summary>
                <b>Cannot be taken</b> {count(found.counts.bad ?? 0)}
              </summary>
              <table className="plain">
                <tbody>
                  {found.bad.map((row) => (
                    <tr key={row.number}>
                      <td className="n soft" style={{ width: 44 }}>
                        {row.number}
                      </td>
                      <td className="mono">{row.address}</td>
                      <td>{row.why}</td>
                    </tr>
                  ))}
                </tbody>
              </table>
            </details>
          )}
        </>
      )}
    </div>
  );
}
