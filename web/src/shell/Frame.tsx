/** The frame every view of a crossing lives in: header, fate bar, rail, keys. */
import { useEffect, useState } from "react";
import { Link, NavLink, Outlet, useLocation } from "react-router";
import { Problem } from "../api/client";
import { FateBar, type Fate } from "../shores/Fate";
import { Told } from "../shores/Told";
import { leave, useGo } from "./Go";
import { Head } from "./Head";
import { Icon } from "./icons";
import { useKeys } from "./keys";
import { useBehind, useManifest, useUndo } from "./queries";
import { count, followed, useCrossing, useCrossingId, useLink } from "./state";

export const STAGES = ["survey", "sort", "lift", "refit", "route", "land"] as const;
const TITLE: Record<string, string> = {
  survey: "Survey",
  sort: "Sort",
  lift: "Lift",
  refit: "Refit",
  route: "Route",
  land: "Land",
};

/** What else of a view's address changes when a part of the fate bar narrows it; views not named lead to Survey. */
const NARROW: Record<string, (tab: string) => Partial<Record<string, string | null>>> = {
  survey: () => ({ tab: null, side: null }), // only the old site has fates
  sort: (tab) => (tab && tab !== "kinds" ? {} : { tab: "pages", kind: null }),
  lift: () => ({ page: null }),
  refit: (tab) => ({ tab: tab === "losses" ? tab : null, item: null, field: null }),
  route: () => ({ tab: "decisions" }),
  land: () => ({ tab: null }),
};

/** A count in at most four signs: 999, 5.0k, 99k. */
const short = (n: number) =>
  n < 1000
    ? String(n)
    : n < 9950
      ? `${(n / 1000).toFixed(1)}k`
      : n < 999_500
        ? `${Math.round(n / 1000)}k`
        : `${(n / 1e6).toFixed(1)}m`;

/** Where each view was left, so that coming back finds its filters and its place as they were. */
export default function Frame() {
  const id = useCrossingId();
  const crossing = useCrossing();
  const location = useLocation();
  const go = useGo();
  const link = useLink();
  const [undone, setUndone] = useState("");
  const view = location.pathname.split("/")[3] || "manifest";
  const begun = crossing.data?.id === id ? crossing.data.created : "";
  useEffect(() => {
    if (begun) leave(id, begun, view, location.search);
  }, [id, begun, view, location.search]);
  const manifest = useManifest();
  const back = useUndo();
  const undo = async () => {
    try {
      const made = await back.undo.mutateAsync();
      setUndone(`Taken back: ${made.text}`);
    } catch (error) {
      setUndone(error instanceof Problem ? error.message : String(error));
    }
    window.setTimeout(() => setUndone(""), 5000);
  };
  useKeys([
    ...STAGES.map((stage, n) => ({ key: String(n + 1), says: `to ${TITLE[stage]}`, run: () => void go(stage) })),
    { key: "0", says: "to the manifest", run: () => void go("manifest") },
    { key: "z", says: "take the last change of the plan back", run: () => void undo() },
  ]);
  const account = crossing.data?.account ?? [];
  const open = account.find((f) => f.fate === "unaccounted")?.planned ?? 0;
  const planned = account.reduce((sum, f) => sum + (f.fate === "unaccounted" ? 0 : f.planned), 0);
  const chosen = link.all("fate");
  const pick = (fate: Fate | "") => {
    const narrow = NARROW[view];
    if (!narrow) void go(`survey?fate=${encodeURIComponent(fate)}`);
    else link.set({ fate: fate === "" || chosen.includes(fate) ? null : [fate], ...narrow(link.get("tab")) });
  };
  const late: Record<string, number> = useBehind().data?.stages ?? {};
  const waiting: Record<string, number> = { ...manifest.data?.waiting };
  if (crossing.error)
    return (
      <div className="frame bare">
        <Head />
        <main>
          <Told error={crossing.error} />
          <Link to="/">To all crossings</Link>
        </main>
      </div>
    );
  return (
    <div className="frame">
      <Head crossing={crossing.data} />
      <div className="fatebar">
        <div className="ftot">
          <b>{count(crossing.data?.addresses)}</b> old addresses
        </div>
        <FateBar account={account} chosen={chosen} onPick={pick} />
        <button
          className={`fun${open === 0 ? (crossing.data?.addresses ? " none" : " soft") : ""}`}
          onClick={() => (open ? pick("unaccounted") : void go("manifest"))}
          aria-live="polite"
          title={
            planned ? `${count(planned)} more are planned, and not proven by a check yet` : "everything else is proven"
          }
        >
          <b>{count(crossing.data ? open : 0)}</b> unaccounted
          {planned > 0 && (
            <span className="soft" style={{ fontWeight: 400 }}>
              {" "}
              · {count(planned)} planned
            </span>
          )}
        </button>
      </div>
      <nav className="rail" aria-label="Views">
        <NavLink
          to={`/c/${id}/manifest`}
          className={view === "manifest" ? "on" : ""}
          onClick={(e) => followed(e, () => void go("manifest"))}
        >
          <Icon name="manifest" />
          Manifest
        </NavLink>
        <hr />
        {STAGES.map((stage) => (
          <NavLink
            key={stage}
            to={`/c/${id}/${stage}`}
            className={view === stage ? "on" : ""}
            onClick={(e) => followed(e, () => void go(stage))}
          >
            <Icon name={stage} />
            {TITLE[stage]}
            {(late[stage] ?? 0) > 0 && (
              <u title={`${count(late[stage])} behind what is there now`}>
                <span className="vh">behind: </span>↻{short(late[stage] ?? 0)}
              </u>
            )}
            {(waiting[stage] ?? 0) > 0 && (
              <i title={`${count(waiting[stage])} wait for you here`}>
                <span className="vh">waiting: </span>
                {short(waiting[stage] ?? 0)}
              </i>
            )}
          </NavLink>
        ))}
        <hr />
        <NavLink
          to={`/c/${id}/media`}
          className={view === "media" ? "on" : ""}
          onClick={(e) => followed(e, () => void go("media"))}
        >
          <Icon name="media" />
          Media
        </NavLink>
      </nav>
      <main>
        <Told error={manifest.error} />
        <Outlet />
      </main>
      {undone && (
        <div className="gone" role="status">
          {undone}
        </div>
      )}
    </div>
  );
}
