/** Refit: bodies old beside new, constructs by count, losses by body. */
import { Button } from "@mui/material";
import type { Schemas } from "../../api/client";
import { useKeys } from "../../shell/keys";
import { count, many, share, useLink, useStart } from "../../shell/state";
import { FateChip, useFates } from "../../shores/FateChip";
import { useLive } from "../../shores/Run";
import { StageHead } from "../../shores/StageHead";
import { Empty } from "../../shores/Told";
import { Constructs } from "./Constructs";
import { Forms } from "./Forms";
import { Losses } from "./Losses";
import { THINGS } from "./PageAccount";
import { Pages } from "./Pages";
import { Choices } from "./Choices";
import { Steps } from "./Steps";
import { useBodyCount, useForms, useItemCount, useSteps, useTotals } from "./queries";
import { construct } from "./words";
import { RUNS, off } from "../../shell/off";

/** What is lost beside words, in words; pictures behind something are looks, and told on their page alone. */
function lostOf(totals: Schemas["RefitTotals"]): string {
  const lost = totals.things.filter((t) => t.lost && t.name !== "backgrounds");
  return lost.map((t) => ` · ${count(t.lost)} ${THINGS[t.name] ?? t.name} lost`).join("");
}

/** How much of the words stands in raw HTML within Markdown, or in raw islands. */
function rawOf(t: Schemas["RefitTotals"]): string {
  const raw = t.in_raw_html ? ` · ${share(t.in_raw_html, t.words)} in raw HTML` : "";
  return raw + (t.in_islands ? ` · ${share(t.in_islands, t.words)} in islands` : "");
}

export default function Refit() {
  const link = useLink();
  const start = useStart();
  const live = useLive(["refit"]);
  const fate = useFates();
  const tab = link.get("tab") || "pages";
  const totals = useTotals();
  const steps = useSteps();
  const forms = useForms();
  const shown = useBodyCount(fate);
  const lifted = useItemCount(shown.data?.total === 0);
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
          ["shared", `Steps ${count(steps.data?.length)}`],
          ["forms", `Forms ${count(forms.data?.length)}`],
          ["losses", `Losses ${count(t?.lossy)}`],
        ]}
        aside={
          <>
            {tab === "pages" && <FateChip />}{" "}
            {tab === "pages" && link.get("construct") && (
              <button className="chip on" onClick={() => link.set({ construct: null })} title="Show all bodies again">
                only with {construct(link.get("construct"))} ×
              </button>
            )}{" "}
            {t &&
              t.words > 0 &&
              `${share(t.words - t.unaccounted, t.words)} of ${many(t.words, "word")} accounted for${lostOf(t)}${rawOf(t)}`}
          </>
        }
        stage="refit"
        error={totals.error ?? steps.error ?? forms.error ?? shown.error ?? lifted.error ?? start.error}
      >
        <Button variant="contained" onClick={run} {...off([!!live, RUNS])}>
          Refit all
        </Button>
      </StageHead>
      {none && fate.length > 0 && tab !== "constructs" && tab !== "shared" && (
        <section className="panel">
          <Empty
            title="No body belongs to an address of this fate."
            action="To the addresses"
            to={`survey?${fate.map((f) => `fate=${encodeURIComponent(f)}`).join("&")}`}
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
            to={lifted.data?.total ? undefined : "lift"}
            onAction={() => void run()}
          >
            Bodies come from fields of the type “the body, as blocks”.{" "}
            {lifted.data?.total ? "The pages are lifted; refit them." : "Lift the pages first, then refit."}
          </Empty>
        </section>
      )}
      {tab === "pages" && !none && <Pages />}
      {tab === "constructs" && !(none && !fate.length) && (
        <div className="shores" style={{ flex: 1 }}>
          <Constructs />
          <Choices />
        </div>
      )}
      {tab === "shared" && !(none && !fate.length) && <Steps />}
      {tab === "forms" && !none && <Forms />}
      {tab === "losses" && !none && <Losses />}
    </>
  );
}
