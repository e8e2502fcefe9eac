/** Survey: the old site's tree, every address, and one address in detail. */
import { Button } from "@mui/material";
import { useKeys } from "../../shell/keys";
import { useCrossing, useLink, usePlan, useStart } from "../../shell/state";
import { Log } from "../../shores/Log";
import { PathTree } from "../../shores/PathTree";
import { useLive } from "../../shores/Run";
import { StageHead } from "../../shores/StageHead";
import { Empty } from "../../shores/Told";
import { AddressList } from "./AddressList";
import { COLUMNS } from "./columns";
import { Detail } from "./Detail";
import { Scope } from "./Scope";

export default function Survey() {
  const link = useLink();
  const plan = usePlan();
  const start = useStart();
  const crossing = useCrossing();
  const live = useLive(["survey"]);
  const tab = link.get("tab") || "addresses";
  const open = Number(link.get("open"));
  const own = plan.data?.plan.old.start.replace(/^https?:\/\//, "").split("/")[0] ?? "";
  const begun = (crossing.data?.addresses ?? 0) > 0;
  const run = () => !live && start.mutate({ kind: "survey" });
  useKeys([
    { key: "r", says: "survey the old site (again)", run },
    { key: "Escape", says: "close the address", run: () => link.set({ open: null }) },
  ]);
  return (
    <>
      <StageHead
        title="Survey"
        trade="crawl"
        at={tab}
        tabs={[
          ["addresses", "Addresses"],
          ["scope", "Scope & manners"],
          ["log", "Log"],
        ]}
        aside={<span className="mono">{own}</span>}
        jobs={["survey"]}
        error={start.error ?? plan.error}
      >
        <Button variant="contained" onClick={run} disabled={!!live || start.isPending}>
          {begun ? "Survey again" : "Start the survey"}
        </Button>
      </StageHead>
      {tab === "scope" && <Scope />}
      {tab === "log" && <Log />}
      {tab === "addresses" && (
        <div className="shores">
          <section className="shore old" style={{ flex: "0 0 224px" }} aria-label="Folders">
            <h2>Old shore</h2>
            {own && <PathTree own={own} host={link.all("host")[0] ?? ""} below={link.get("below")} onChoose={(host, below) => link.set({ host: host ? [host] : null, below: below === "/" ? null : below })} />}
          </section>
          <section className="panel" style={{ flex: 1 }} aria-label="Addresses">
            <AddressList
              name="addresses"
              columns={COLUMNS}
              empty={
                begun || live ? undefined : (
                  <Empty title="The old site is not surveyed yet." action="Start the survey" onAction={run}>
                    First look at scope and manners: who allowed the copy, how politely to fetch, and which folders to stay in. Then start; it goes on with this page closed.
                  </Empty>
                )
              }
            />
          </section>
          {open > 0 && <Detail address={open} />}
        </div>
      )}
    </>
  );
}
