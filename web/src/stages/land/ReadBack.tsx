/** What a person altered in the folder since it was written, against what the crossing has, and taking it in. */
import { Button } from "@mui/material";
import { BUSY, RUNS, off } from "../../shell/off";
import { count, many } from "../../shell/state";
import { useLive } from "../../shores/Run";
import { Addr } from "../../shores/Addr";
import { Told } from "../../shores/Told";
import { useAltered, useTakeIn } from "./queries";

export function ReadBack() {
  const altered = useAltered();
  const taking = useTakeIn();
  const live = useLive(["land"]);
  const data = altered.data;
  const rows = data?.rows ?? [];
  const done = taking.data;
  return (
    <section className="panel" style={{ flex: 1 }} aria-label="Altered there">
      <h2>
        Altered there{" "}
        <small>
          {data
            ? `${many(data.altered, "file")} ${data.altered === 1 ? "is" : "are"} not as ${data.altered === 1 ? "it was" : "they were"} written` +
              (data.same ? `; ${count(data.same)} of them say the same` : "") +
              (data.gone ? `; ${count(data.gone)} are gone, and are written again with the next landing` : "")
            : altered.isLoading && "reading the folder…"}
        </small>
        <span style={{ flex: 1 }} />
        <Button
          variant="contained"
          onClick={() => taking.mutate([])}
          title="Each as set by hand, all of it as one change that can be undone."
          {...off(
            [taking.isPending, BUSY],
            [!!live, RUNS],
            [!data?.fit, "Nothing in the folder can be taken in at once."],
          )}
        >
          Take in {count(data?.fit ?? 0)}
        </Button>
      </h2>
      <Told error={altered.error ?? taking.error} />
      {done && (
        <p className="told" role="status">
          {done.taken
            ? `${many(done.taken, "difference")} of ${many(done.items, "item")} taken in` +
              (done.left
                ? `; ${many(done.left, "is", "are")} left.`
                : ". The next landing writes them as the crossing has them.")
            : "Nothing was taken in."}
        </p>
      )}
      <div className="scroll" tabIndex={0} role="region" aria-label="What the files say otherwise">
        {data?.faults.map((one, n) => (
          <p key={n} className="told">
            <span className="mono">{one.file}</span>: {one.says}
          </p>
        ))}
        {rows.length > 0 && (
          <table className="plain" style={{ tableLayout: "fixed" }}>
            <thead>
              <tr>
                <th style={{ width: 250 }}>file</th>
                <th style={{ width: 90 }}>field</th>
                <th>it was</th>
                <th>it is</th>
                <th style={{ width: 210 }}>taken in</th>
              </tr>
            </thead>
            <tbody>
              {rows.map((row, n) => (
                <tr key={n}>
                  <td className="mono">
                    <Addr of={row.file} />
                  </td>
                  <td>{row.name}</td>
                  <td className="soft">{row.ours || <i>nothing</i>}</td>
                  <td>{row.theirs || <i>nothing</i>}</td>
                  <td>
                    {row.reason ? (
                      <span className="state odd">no: {row.reason}</span>
                    ) : row.newer ? (
                      <>
                        <span className="state odd">changed here as well</span>{" "}
                        <Button
                          onClick={() => taking.mutate([row.key])}
                          title="All that this file says counts, also over what was changed here."
                          {...off([taking.isPending, BUSY], [!!live, RUNS])}
                        >
                          Take the file
                        </Button>
                      </>
                    ) : (
                      <span className="state">with the others</span>
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        )}
        {data && data.total > rows.length && (
          <p className="told">
            The first {count(rows.length)} of {count(data.total)} are shown; all are taken in.
          </p>
        )}
        {data && !data.total && !data.faults.length && (
          <div className="empty">
            {data.altered
              ? "Nothing is said otherwise; it is only written in another way."
              : "Every file is as it was written. What is altered there in an editor can be taken in here."}
          </div>
        )}
      </div>
    </section>
  );
}
