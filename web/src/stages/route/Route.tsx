/** Route: what is open by shape, decisions, pairs, rules, rounds, and the map written out. */
import { Button } from "@mui/material";
import { useKeys } from "../../shell/keys";
import { count, useCrossing, useLink, usePlan, useStart } from "../../shell/state";
import { useLive } from "../../shores/Run";
import { StageHead } from "../../shores/StageHead";
import { AddressList } from "../survey/AddressList";
import { DECISION_COLUMNS } from "../survey/columns";
import { Elsewhere } from "./Elsewhere";
import { OpenAddresses } from "./Open";
import { Pairs } from "./Pairs";
import { Places } from "./Places";
import { Questions } from "./Questions";
import { useQuestionCounts } from "./questionQueries";
import { useClashes, usePairCount, useSisterHosts, useWithout } from "./queries";
import { Rounds } from "./Rounds";
import { Rules } from "./Rules";
import { Shore } from "./Shore";
import { Suggested } from "./Suggested";
import { WriteOut } from "./WriteOut";
import { RUNS, off } from "../../shell/off";

const FILTERS: [string, string][] = [
  ["fate", "fate"],
  ["proof", "proof"],
  ["origin", "decided by"],
  ["verdict", "last check"],
];

const IN_ACCOUNT = { account: ["in"] };

export default function Route() {
  const link = useLink();
  const plan = usePlan();
  const start = useStart();
  const crossing = useCrossing();
  const live = useLive(["route", "check"]);
  const tab = link.get("tab") || "open";
  const pairs = usePairCount();
  const against = plan.data?.plan.interim ?? "";
  const open = crossing.data?.account.find((f) => f.fate === "unaccounted")?.planned ?? 0;
  const asked = useQuestionCounts();
  const without = useWithout();
  const none = (without.data ?? []).reduce((sum, r) => sum + r.count, 0);
  const clashes = useClashes().data?.total ?? 0;
  const sisters = useSisterHosts();
  const elsewhere = (sisters.data ?? []).reduce((sum, r) => sum + r.count, 0);
  const check = () => !live && against && start.mutate({ kind: "check" });
  const again = () => !live && against && start.mutate({ kind: "check", failed: true });
  useKeys([
    { key: "r", says: "check every old address again", run: () => void check() },
    { key: "f", says: "check again what is not proven", run: () => void again() },
  ]);
  return (
    <>
      <StageHead
        title="Route"
        trade="redirects"
        at={tab}
        tabs={[
          ["open", `Open ${count(open)}`],
          ["suggested", "Suggested"],
          ["decisions", "Decisions"],
          ["pairs", `Pairs ${count(pairs.data?.total)}`],
          ["questions", asked.data?.open ? `Questions ${count(asked.data.open)}` : "Questions"],
          ["rules", `Rules ${count(plan.data?.plan.route?.rules?.length)}`],
          ["rounds", "Rounds"],
          ["write", "Write out"],
          ["shore", "New shore"],
          ...(none || clashes || tab === "places"
            ? ([["places", none ? `No address ${count(none)}` : `Clashes ${count(clashes)}`]] as [string, string][])
            : []),
          ...(elsewhere || tab === "elsewhere"
            ? ([["elsewhere", `Other hosts ${count(elsewhere)}`]] as [string, string][])
            : []),
        ]}
        aside={against ? null : "no interim host named"}
        stage="route"
        error={start.error ?? plan.error ?? pairs.error ?? without.error ?? sisters.error ?? asked.error}
      >
        <Button
          variant="outlined"
          onClick={() => start.mutate({ kind: "route" })}
          {...off([!!live, RUNS])}
          title="New addresses for items and files, and a decision for every old address"
        >
          Decide
        </Button>
        {open > 0 && against && (
          <Button
            variant="outlined"
            onClick={() => void again()}
            {...off([!!live, RUNS])}
            title="Asks only what the latest round has not proven; the rest is taken over"
          >
            Ask the unproven <kbd style={{ marginLeft: 5 }}>F</kbd>
          </Button>
        )}
        <Button
          variant="contained"
          title={against ? `against ${against}` : undefined}
          onClick={() => void check()}
          {...off(
            [!!live, RUNS],
            [!against, "Say first which host the new site grows on (Scope & manners)."],
            [!crossing.data?.addresses, "Survey the old site first."],
          )}
        >
          Check <kbd style={{ marginLeft: 5 }}>R</kbd>
        </Button>
      </StageHead>
      {tab === "open" && <OpenAddresses />}
      {tab === "suggested" && <Suggested />}
      {tab === "decisions" && (
        <section className="panel" style={{ flex: 1 }} aria-label="Decisions">
          <AddressList name="decisions" columns={DECISION_COLUMNS} filters={FILTERS} fixed={IN_ACCOUNT} />
        </section>
      )}
      {tab === "pairs" && <Pairs />}
      {tab === "questions" && <Questions />}
      {tab === "rules" && <Rules />}
      {tab === "places" && <Places />}
      {tab === "elsewhere" && <Elsewhere />}
      {tab === "shore" && <Shore />}
      {tab === "rounds" && <Rounds />}
      {tab === "write" && <WriteOut />}
    </>
  );
}
