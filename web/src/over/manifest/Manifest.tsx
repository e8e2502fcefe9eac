/** The manifest: the flow from folders to fates, what to do next, and the evidence. */
import { Link } from "react-router";
import { useBehind, useManifest } from "../../shell/queries";
import { useGo } from "../../shell/Go";
import { Icon } from "../../shell/icons";
import { count, many, share, useCrossing, useCrossingId, useLink, when } from "../../shell/state";
import { Log } from "../../shores/Log";
import { RunLine } from "../../shores/Run";
import { Tabs } from "../../shores/Tabs";
import { Empty, Told } from "../../shores/Told";
import { useFolders } from "./queries";
import { ByHand } from "./ByHand";
import { Changes } from "./Changes";
import { PlanFile } from "./PlanFile";
import { Flow } from "./Flow";

const TITLE: Record<string, string> = {
  survey: "Survey",
  sort: "Sort",
  lift: "Lift",
  refit: "Refit",
  route: "Route",
  land: "Land",
};

export default function Manifest() {
  const id = useCrossingId();
  const go = useGo();
  const link = useLink();
  const tab = link.get("tab") || "account";
  const crossing = useCrossing();
  const manifest = useManifest();
  const folders = useFolders();
  const e = manifest.data?.evidence;
  const next = manifest.data?.next ?? [];
  const late = useBehind().data?.total ?? 0;
  const rows: [string, [number, number] | undefined, string][] = [
    ["Fates proven", e?.addresses_proven as [number, number] | undefined, ""],
    ["Visits covered", e?.visits_covered as [number, number] | undefined, "no log was given"],
    ["Words carried", e?.words_carried as [number, number] | undefined, "no body is refitted yet"],
    ...(
      [
        ["Links in bodies", e?.links_carried],
        ["Pictures in bodies", e?.pictures_carried],
        ["Documents linked", e?.documents_carried],
        ["Frames", e?.frames_carried],
        ["Anchors", e?.anchors_carried],
      ] as [string, [number, number] | undefined][]
    )
      .filter(([, pair]) => pair?.[1])
      .map(([label, pair]): [string, [number, number] | undefined, string] => [label, pair, ""]),
    ["Files carried", e?.files_carried as [number, number] | undefined, "no file is placed yet"],
    ["Of other hosts", e?.sisters_carried as [number, number] | undefined, "no file lies on another host"],
    ["Items landed", e?.items_landed as [number, number] | undefined, "no item is lifted yet"],
  ];
  return (
    <>
      <div className="title">
        <h1>Manifest</h1>
        <Tabs
          at={tab}
          first="account"
          tabs={[
            ["account", "Account"],
            ["changes", "Changes"],
            ["log", "Log"],
          ]}
        />
        <span className="sp" />
        <span className="aside">
          surveyed {when(e?.surveyed_at ?? "")} · checked {when(e?.checked_at ?? "")}
          {e?.checked_host ? ` against ${e.checked_host}` : ""}
        </span>
      </div>
      <RunLine />
      <Told error={manifest.error ?? folders.error} />
      {tab === "log" && <Log />}
      {tab === "changes" && (
        <div className="shores">
          <div className="stack" style={{ flex: 1 }}>
            <ByHand />
            <Changes />
          </div>
          <PlanFile />
        </div>
      )}
      {tab === "account" && (
        <>
          <section className="panel" style={{ flex: "1.3 1 0" }} aria-label="Flow">
            <h2>
              From the old shore to the new <small>width = addresses</small>
            </h2>
            {folders.data?.length ? (
              <Flow
                folders={folders.data}
                onFolder={(folder) => void go(`survey?below=${encodeURIComponent(folder)}`)}
                onFate={(fate) => void go(`survey?fate=${encodeURIComponent(fate)}`)}
              />
            ) : (
              !folders.isPending && (
                <Empty title="No old address is in the account yet." action="To the survey" to={"survey"}>
                  The account begins with the survey: everything that answers, redirects or is asked for by visitors is
                  counted.
                </Empty>
              )
            )}
          </section>
          <div className="shores" style={{ flex: "1 1 0" }}>
            <section className="panel" style={{ flex: 1.9 }} aria-label="Next">
              <h2>
                Next <small>in the order of the work, with what it would settle</small>
              </h2>
              <div className="scroll">
                {late > 0 && (
                  <div className="todo">
                    <span style={{ width: 18, flex: "none" }} aria-hidden>
                      ↻
                    </span>
                    <b>Behind</b>
                    <span>
                      {many(late, "finding rests", "findings rest")} on what has changed since. Bring them up to date
                      (U).
                    </span>
                  </div>
                )}
                {next.map((step, n) => (
                  <div className="todo" key={n}>
                    <span style={{ width: 18, flex: "none" }}>
                      <span className="mini">
                        <Icon name={step.stage} />
                      </span>
                    </span>
                    <b>{TITLE[step.stage]}</b>
                    <span>{step.text}</span>
                    <Link to={`/c/${id}/${step.to}`} aria-label={`Go: ${step.text}`}>
                      Go
                    </Link>
                  </div>
                ))}
                {manifest.data && !next.length && !late && (
                  <div className="empty">
                    <b>Nothing is open.</b>
                    {count(crossing.data?.addresses)} old addresses are accounted for, and the check of{" "}
                    {when(e?.checked_at ?? "")} against {e?.checked_host} proved every one.
                  </div>
                )}
              </div>
            </section>
            <section className="panel" style={{ flex: 1 }} aria-label="Evidence">
              <h2>
                Evidence <small>what the machine checked</small>
              </h2>
              <dl
                className="facts scroll"
                style={{ gridTemplateColumns: "112px 1fr", gap: "4px 8px", alignContent: "start" }}
              >
                {rows.map(([label, pair, none]) => (
                  <div key={label} style={{ display: "contents" }}>
                    <dt>{label}</dt>
                    <dd>
                      {pair && pair[1] ? (
                        <>
                          <b>{share(pair[0], pair[1])}</b>{" "}
                          <span className="soft">
                            {count(pair[0])} of {count(pair[1])}
                          </span>
                        </>
                      ) : (
                        <span className="soft">{none || "nothing yet"}</span>
                      )}
                    </dd>
                  </div>
                ))}
              </dl>
            </section>
          </div>
        </>
      )}
    </>
  );
}
