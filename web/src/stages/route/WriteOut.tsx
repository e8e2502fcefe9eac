/** The redirect map as files for a server: looked at, with what the server cannot do of it; taking them hands over. */
import { Button } from "@mui/material";
import { BUSY, off } from "../../shell/off";
import { count, many, useCrossingId, useLink } from "../../shell/state";
import { Addr } from "../../shores/Addr";
import { Told } from "../../shores/Told";
import { useHandOver, useMapAbout, useMapText, useServers } from "./queries";

const NAMES: Record<string, string> = {
  nginx: "nginx",
  apache: "Apache",
  htaccess: ".htaccess",
  caddy: "Caddy",
  haproxy: "HAProxy",
  lighttpd: "lighttpd",
  "redirects-file": "_redirects",
  csv: "table (CSV)",
  json: "JSON",
};
const MOST = 500; // lines of a file that are shown

/** Let the browser take what an address answers. */
function fetched(href: string, name = "") {
  const a = document.createElement("a");
  a.href = href;
  a.download = name;
  a.click();
}

export function WriteOut() {
  const link = useLink();
  const crossing = useCrossingId();
  const servers = useServers();
  const server = link.get("server") || servers.data?.[0] || "";
  const about = useMapAbout(server);
  const files = about.data?.files ?? [];
  const file = files.find((one) => one.name === link.get("file")) ?? files[0];
  const text = useMapText(server, file?.name ?? "", MOST);
  const hand = useHandOver(server, () => {
    const base = `/api/crossings/${crossing}/redirects/${server}`;
    if (files.length === 1 && file) fetched(`${base}?file=${encodeURIComponent(file.name)}`, file.name);
    else fetched(`${base}/files`);
  });
  return (
    <section className="panel" style={{ flex: 1 }} aria-label="Write out">
      <div className="filters">
        {(servers.data ?? []).map((s) => (
          <button
            key={s}
            className={`chip${s === server ? " on" : ""}`}
            aria-pressed={s === server}
            onClick={() => link.set({ server: s, file: "" })}
          >
            {NAMES[s] ?? s}
          </button>
        ))}
        <span className="sp" />
        <Button
          variant="contained"
          onClick={() => hand.mutate()}
          {...off([!about.data, "The files are not here yet."], [hand.isPending, BUSY])}
        >
          Take {files.length > 1 ? many(files.length, "file") : "the file"}, hand over
        </Button>
      </div>
      <Told error={servers.error ?? about.error ?? text.error ?? hand.error} />
      {hand.isSuccess && (
        <div className="told pad">Handed over. The rules say so until a check has seen them working.</div>
      )}
      <div className="shores">
        <div style={{ flex: 1.9, display: "flex", flexDirection: "column", minWidth: 0 }}>
          <div className="filters">
            {files.map((one) => (
              <button
                key={one.name}
                className={`chip mono${one === file ? " on" : ""}`}
                aria-pressed={one === file}
                onClick={() => link.set({ file: one.name }, true)}
              >
                {one.name}
              </button>
            ))}
            <span className="sp" />
            {file && (
              <span className="soft">
                {many(file.lines, "line")}, {count(file.bytes)} bytes
                {file.lines > MOST && `; the first ${count(MOST)} are shown`}
              </span>
            )}
          </div>
          <pre className="sheet" style={{ margin: "0 12px" }} tabIndex={0} role="region" aria-label="The map as text">
            {text.data}
          </pre>
        </div>
        <aside style={{ flex: 1, minWidth: 0 }} className="scroll form" aria-label="What it holds" tabIndex={0}>
          {about.data && <About of={about.data} />}
        </aside>
      </div>
    </section>
  );
}

function About({ of }: { of: NonNullable<ReturnType<typeof useMapAbout>["data"]> }) {
  return (
    <>
      <dl className="facts">
        <dt>Lines</dt>
        <dd>
          {count(of.lines)}
          {of.spelled > 0 && <span className="soft">, {count(of.spelled)} of them in the place of rules</span>}
        </dd>
        <dt>Last change</dt>
        <dd>{of.changed || <span className="soft">not known</span>}</dd>
        <dt>Proof</dt>
        <dd className="soft">read back; it says the same as the map</dd>
        <dt>Host</dt>
        <dd className="soft">none in it, so that it is the same for interim and final</dd>
      </dl>
      {of.left_out_count > 0 && (
        <h3 className="state odd">
          {many(of.left_out_count, "address", "addresses")} it cannot answer, without a line
        </h3>
      )}
      {[...new Set(of.left_out.map((one) => one.why))].map((why) => (
        <div key={why}>
          <p className="soft">{why}</p>
          <ul className="bounds">
            {of.left_out
              .filter((one) => one.why === why)
              .map((one) => (
                <li key={one.old}>
                  <Addr of={one.old} whole />
                </li>
              ))}
          </ul>
        </div>
      ))}
      {of.left_out_count > of.left_out.length && (
        <p className="soft">The first {count(of.left_out.length)} are shown; the files name none of them.</p>
      )}
      {of.bounds.length > 0 && (
        <>
          <h3>In this form</h3>
          <ul className="bounds">
            {of.bounds.map((bound) => (
              <li key={bound}>{bound}</li>
            ))}
          </ul>
        </>
      )}
    </>
  );
}
