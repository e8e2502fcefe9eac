/** One file: the picture, its addresses, where it is shown and with which text, where it goes. */
import { Link } from "react-router";
import { count, many, size, useCrossingId, useLink } from "../../shell/state";
import { Addr } from "../../shores/Addr";
import { Told } from "../../shores/Told";
import { Say } from "./Say";
import { useFile } from "./queries";
import { FAULT, pixels } from "./words";

export function FileFacts({ id }: { id: number }) {
  const crossing = useCrossingId();
  const link = useLink();
  const detail = useFile(id);
  const data = detail.data;
  const file = data?.file;
  return (
    <section className="panel" style={{ flex: "0 0 380px" }} aria-label="File">
      <h2>
        <span className="mono">{decodeURIComponent(data?.sources[0]?.url.split("/").pop() ?? "…")}</span>
        <button className="linkish" style={{ marginLeft: "auto" }} onClick={() => link.set({ open: null })}>
          close
        </button>
      </h2>
      <div className="scroll pad" tabIndex={0} role="region" aria-label="What is known of it">
        <Told error={detail.error} />
        {file && (
          <p>
            {[file.mime, pixels(file), size(file.bytes)].filter(Boolean).join(" · ")}
            {file.fault && (
              <>
                <br />
                <span className="state odd">{FAULT[file.fault]}</span>
              </>
            )}
            <br />
            {file.new_path ? (
              <>
                goes to <span className="mono">{file.new_path}</span>
                {file.fate === "carried" ? ", carried" : ""}
              </>
            ) : (
              <span className="soft">{file.says || "it has no new address yet"}</span>
            )}
          </p>
        )}
        {data && <Say key={id} id={id} detail={data} />}
        {data && (
          <>
            <h3>{many(data.sources.length, "address", "addresses")}</h3>
            {data.sources.map((one) => (
              <div key={one.id} className="mono">
                <Link to={`/c/${crossing}/survey?open=${one.id}`}>
                  <Addr of={one.url} />
                </Link>
              </div>
            ))}
            <h3>
              {many(data.uses_all, "place")}{" "}
              {data.uses.length < data.uses_all && <small>the first {count(data.uses.length)} are listed</small>}
            </h3>
            <table className="plain">
              <tbody>
                {data.uses.map((use, n) => (
                  <tr key={n}>
                    <td className="mono">
                      <Link to={`/c/${crossing}/survey?open=${use.page}`} title={use.title}>
                        <Addr of={use.key} />
                      </Link>
                      <div className="soft">{use.how}</div>
                    </td>
                    <td>{use.words || <span className="soft">no text</span>}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          </>
        )}
      </div>
    </section>
  );
}
