/** Refit: bodies old beside new, constructs by count, losses by body. */
import { Button } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { client, take, type Schemas } from "../../api/client";
import { useGo } from "../../shell/Frame";
import { useKeys } from "../../shell/keys";
import { count, many, share, useCrossingId, useLink, useStart } from "../../shell/state";
import { FateChip, useFates } from "../../shores/FateChip";
import { useLive } from "../../shores/Run";
import { StageHead } from "../../shores/StageHead";
import { Empty } from "../../shores/Told";
import { Constructs } from "./Constructs";
import { Losses } from "./Losses";
import { THINGS } from "./PageAccount";
import { Pages } from "./Pages";

/** What is lost beside words, in words; pictures behind something are looks, and told on their page alone. */
function lostOf(totals: Schemas["RefitTotals"]): string {
  const lost = totals.things.filter((t) => t.lost && t.name !== "backgrounds");
  return lost.map((t) => ` · ${count(t.lost)} ${THINGS[t.name] ?? t.name} lost`).join("");
}

export default function Refit() {
  const id = useCrossingId();
  const link = useLink();
  const go = useGo();
  const start = useStart();
  const live = useLive(["refit"]);
  const fate = useFates();
  const tab = link.get("tab") || "pages";
  const path = { crossing: id };
  const totals = useQuery({
    queryKey: ["refit", id],
    queryFn: () => take(client.GET("/api/crossings/{crossing}/refit", { params: { path } })),
  });
  const shown = useQuery({
    queryKey: ["bodies-count", id, fate],
    queryFn: () =>
      take(client.GET("/api/crossings/{crossing}/bodies", { params: { path, query: { limit: 1, fate } } })),
  });
  const lifted = useQuery({
    queryKey: ["items-count", id],
    enabled: shown.data?.total === 0,
    queryFn: () => take(client.GET("/api/crossings/{crossing}/items", { params: { path, query: { limit: 1 } } })),
  });
  const run = () => !live && start.mutate({ kind: "refit", all: true });
  useKeys([{ key: "r", says: "refit all", run }]);
  const t = totals.data;
  const none = shown.data?.total === 0;
  return (
    <>
      <StageHead
        title="Refit"
        trade="markup"
        at={tab}
        tabs={[
          ["pages", `Page by page ${count(shown.data?.total)}`],
          ["constructs", "Constructs"],
          ["losses", `Losses ${count(t?.lossy)}`],
        ]}
        aside={
          <>
            {tab === "pages" && <FateChip />}{" "}
            {t &&
              t.words > 0 &&
              `${share(t.words - t.unaccounted, t.words)} of ${many(t.words, "word")} accounted for${lostOf(t)}`}
          </>
        }
        stage="refit"
        error={totals.error ?? shown.error ?? lifted.error ?? start.error}
      >
        <Button variant="contained" onClick={run} disabled={!!live}>
          Refit all
        </Button>
      </StageHead>
      {none && fate.length > 0 && tab !== "constructs" && (
        <section className="panel">
          <Empty
            title="No body belongs to an address of this fate."
            action="To the addresses"
            onAction={() => void go(`survey?${fate.map((f) => `fate=${encodeURIComponent(f)}`).join("&")}`)}
          >
            Files and addresses without an item of their own are in the survey's list.
          </Empty>
        </section>
      )}
      {none && !fate.length && (
        <section className="panel">
          <Empty
            title="No body is refitted yet."
            action={lifted.data?.total ? "Refit all" : "To the fields"}
            onAction={() => (lifted.data?.total ? void run() : void go("lift"))}
          >
            Bodies come from fields of the type “the body, as blocks”.{" "}
            {lifted.data?.total ? "The pages are lifted; refit them." : "Lift the pages first, then refit."}
          </Empty>
        </section>
      )}
      {tab === "pages" && !none && <Pages />}
      {tab === "constructs" && !(none && !fate.length) && <Constructs />}
      {tab === "losses" && !none && <Losses />}
    </>
  );
}
