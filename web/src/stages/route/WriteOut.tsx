/** The redirect map written for a server: looked at, copied, downloaded; downloading hands it over. */
import { Button } from "@mui/material";
import { many, useLink } from "../../shell/state";
import { Told } from "../../shores/Told";
import { useHandOver, useMapText, useServers } from "./queries";
import { BUSY, off } from "../../shell/off";

const NAMES: Record<string, [string, string]> = {
  nginx: ["nginx", "redirects.conf"],
  csv: ["table (CSV)", "redirects.csv"],
  json: ["JSON", "redirects.json"],
};

export function WriteOut() {
  const link = useLink();
  const servers = useServers();
  const server = link.get("server") || servers.data?.[0] || "";
  const text = useMapText(server);
  const hand = useHandOver(server, () => {
    const url = URL.createObjectURL(new Blob([text.data ?? ""], { type: "text/plain" }));
    const a = document.createElement("a");
    a.href = url;
    a.download = NAMES[server]?.[1] ?? `redirects-${server}.txt`;
    a.click();
    window.setTimeout(() => URL.revokeObjectURL(url), 1000);
  });
  return (
    <section className="panel" style={{ flex: 1 }} aria-label="Write out">
      <div className="filters">
        {(servers.data ?? []).map((s) => (
          <button
            key={s}
            className={`chip${s === server ? " on" : ""}`}
            aria-pressed={s === server}
            onClick={() => link.set({ server: s })}
          >
            {NAMES[s]?.[0] ?? s}
          </button>
        ))}
        <span className="sp" />
        <span className="soft">
          {many((text.data ?? "").split("\n").length - 1, "line")}; the map holds no host, so it is the same for interim
          and final
        </span>
        <Button
          variant="contained"
          onClick={() => hand.mutate()}
          {...off([!text.data, "The files are not here yet."], [hand.isPending, BUSY])}
        >
          Download, hand over
        </Button>
      </div>
      <Told error={servers.error ?? text.error ?? hand.error} />
      {hand.isSuccess && (
        <div className="told pad">Handed over. The rules say so until a check has seen them working.</div>
      )}
      <pre className="sheet" style={{ margin: "0 12px" }} tabIndex={0} role="region" aria-label="The map as text">
        {text.data}
      </pre>
    </section>
  );
}
