/** Files that pages show or link, and that could not be had: why, on how many pages, and asked for once more. */
import { Button } from "@mui/material";
import { Link } from "react-router";
import { count, useCrossingId, useStart } from "../../shell/state";
import { off, RUNS } from "../../shell/off";
import { Addr } from "../../shores/Addr";
import { useLive } from "../../shores/Run";
import { Told } from "../../shores/Told";
import { useMissing } from "./queries";

export function Lacking() {
  const crossing = useCrossingId();
  const missing = useMissing();
  const start = useStart();
  const live = useLive(["survey"]);
  const rows = missing.data ?? [];
  return (
    <section className="panel" style={{ flex: 1 }} aria-label="Not had">
      <h2>
        Could not be had <small>{missing.data ? `${count(rows.length)}, those on most pages first` : "…"}</small>
      </h2>
      <Told error={missing.error ?? start.error} />
      <div className="scroll" tabIndex={0} role="region" aria-label="Files that could not be had">
        <table className="plain">
          <thead>
            <tr>
              <th>file</th>
              <th>why</th>
              <th className="n">on pages</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {rows.map((row) => (
              <tr key={row.id}>
                <td className="mono">
                  <Link to={`/c/${crossing}/survey?open=${row.id}`}>
                    <Addr of={row.url} />
                  </Link>
                </td>
                <td>{row.problem || (row.status ? `it answered ${row.status}` : "no answer")}</td>
                <td className="n">{count(row.pages)}</td>
                <td className="n">
                  <Button
                    variant="outlined"
                    {...off([!!live, RUNS])}
                    onClick={() => start.mutate({ kind: "survey", only: row.id })}
                  >
                    Ask again
                  </Button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
        {missing.data && !rows.length && <div className="empty">Every file that pages show or link is here.</div>}
      </div>
    </section>
  );
}
