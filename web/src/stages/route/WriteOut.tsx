/** The redirect map written for a server: looked at, copied, downloaded; downloading hands it over. */
import { Button } from "@mui/material";
import { useMutation, useQuery } from "@tanstack/react-query";
import { client, take } from "../../api/client";
import { many, useCrossingId, useLink, useRefresh } from "../../shell/state";
import { Told } from "../../shores/Told";

const NAMES: Record<string, [string, string]> = {
  nginx: ["nginx", "redirects.conf"],
  csv: ["table (CSV)", "redirects.csv"],
  json: ["JSON", "redirects.json"],
};

export function WriteOut() {
  const id = useCrossingId();
  const link = useLink();
  const refresh = useRefresh();
  const path = { crossing: id };
  const servers = useQuery({
    queryKey: ["servers", id],
    queryFn: () => take(client.GET("/api/crossings/{crossing}/redirects", { params: { path } })),
  });
  const server = link.get("server") || servers.data?.[0] || "";
  const text = useQuery({
    queryKey: ["map", id, server],
    enabled: !!server,
    queryFn: () =>
      take(
        client.GET("/api/crossings/{crossing}/redirects/{server}", {
          params: { path: { ...path, server } },
          parseAs: "text",
        }) as Promise<{ data?: string; error?: unknown; response: Response }>,
      ),
  });
  const hand = useMutation({
    mutationFn: async () => {
      await take(
        client.POST("/api/crossings/{crossing}/redirects/{server}/handed", { params: { path: { ...path, server } } }),
      );
      const url = URL.createObjectURL(new Blob([text.data ?? ""], { type: "text/plain" }));
      const a = document.createElement("a");
      a.href = url;
      a.download = NAMES[server]?.[1] ?? `redirects-${server}.txt`;
      a.click();
      window.setTimeout(() => URL.revokeObjectURL(url), 1000);
    },
    onSuccess: refresh,
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
        <Button variant="contained" onClick={() => hand.mutate()} disabled={!text.data || hand.isPending}>
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
