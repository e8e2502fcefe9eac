/** Land: the target, a dry run, one item as a trial, the batch, and what happened to every thing. */
import { Button } from "@mui/material";
import { useKeys } from "../../shell/keys";
import { count, useLink, usePlan, useStart } from "../../shell/state";
import { useLive } from "../../shores/Run";
import { StageHead } from "../../shores/StageHead";
import { Empty } from "../../shores/Told";
import { useLandings } from "./queries";
import { Target } from "./Target";
import { Landings, Things } from "./Things";
import { Trial } from "./Trial";
import { Folder } from "./Folder";
import { ReadBack } from "./ReadBack";
import { LinksLeft } from "./LinksLeft";
import { isFolder } from "./forms";
import { RUNS, off } from "../../shell/off";

/** How many files a landing in a folder left, since a person had changed them. */
function leftThere(counts: Record<string, unknown>): number {
  const number = (list: unknown) => (Array.isArray(list) ? list.length : 0);
  return number(counts.refused) + number(counts.kept);
}

export default function Land() {
  const link = useLink();
  const plan = usePlan();
  const start = useStart();
  const live = useLive(["land"]);
  const tab = link.get("tab") || "things";
  const landings = useLandings();
  const list = landings.data ?? [];
  const chosen = list.find((l) => l.id === Number(link.get("landing"))) ?? list[list.length - 1];
  const target = plan.data?.plan.land;
  const run = (dry: boolean) => !live && target && start.mutate({ kind: "land", dry });
  const folder = isFolder(target?.target ?? "jsonapi");
  const links = Number(chosen?.counts.links_left_all ?? 0);
  const left = folder && chosen && !chosen.dry ? leftThere(chosen.counts) : 0;
  useKeys([
    { key: "r", says: "land everything", run: () => void run(false) },
    { key: "t", says: "dry run", run: () => void run(true) },
  ]);
  return (
    <>
      <StageHead
        title="Land"
        trade="import"
        at={tab}
        tabs={[
          ["things", "Landings"],
          ["trial", "Trial"],
          ["target", "Target"],
          ["links", `Links left ${count(links)}`],
          ...(folder ? [["altered", "Altered there"] as [string, string]] : []),
        ]}
        aside={
          !target ? (
            <span className="mono">no target named</span>
          ) : folder ? (
            <Folder />
          ) : (
            <span className="mono">{target.base?.replace(/\/$/, "")}</span>
          )
        }
        stage="land"
        error={plan.error ?? landings.error ?? start.error}
      >
        <Button
          variant="outlined"
          onClick={() => void run(true)}
          {...off([!!live, RUNS], [!target, "Say first where it lands."])}
        >
          Dry run <kbd style={{ marginLeft: 5 }}>T</kbd>
        </Button>
        {left > 0 && tab !== "altered" && (
          <Button variant="outlined" onClick={() => link.set({ tab: "altered" })}>
            See what was altered there
          </Button>
        )}
        {left > 0 && (
          <Button
            variant="outlined"
            title="What a person changed in the folder since, and what was there before, is lost by it."
            onClick={() => start.mutate({ kind: "land", over: true })}
            {...off([!!live, RUNS])}
          >
            Write over {left.toLocaleString("en")} that {left === 1 ? "was" : "were"} left
          </Button>
        )}
        <Button
          variant="contained"
          onClick={() => void run(false)}
          {...off([!!live, RUNS], [!target, "Say first where it lands."])}
        >
          Land all <kbd style={{ marginLeft: 5 }}>R</kbd>
        </Button>
      </StageHead>
      {tab === "target" && plan.data && <Target />}
      {tab === "trial" && <Trial />}
      {tab === "altered" && <ReadBack />}
      {tab === "links" && <LinksLeft counts={chosen?.counts ?? {}} />}
      {tab === "things" &&
        (chosen ? (
          <div className="shores">
            <Landings list={list} chosen={chosen.id} />
            <Things landing={chosen.id} />
          </div>
        ) : (
          landings.data && (
            <section className="panel">
              <Empty
                title={target ? "Nothing has landed yet." : "No target is named."}
                action={target ? "Dry run" : "Name the target"}
                onAction={() => (target ? void run(true) : link.set({ tab: "target" }))}
              >
                {target
                  ? "A dry run says what would be created, changed or refused, and sends nothing."
                  : "Say where the new system answers, and what each kind is called there."}
              </Empty>
            </section>
          )
        ))}
    </>
  );
}
