/** The start: all crossings with their fate bars, and a new one from an address that is asked at once. */
import { Link } from "react-router";
import { Head } from "../../shell/Head";
import { useKeys } from "../../shell/keys";
import { useCrossings } from "../../shell/queries";
import { count, many, when } from "../../shell/state";
import { FateBar } from "../../shores/Fate";
import { Told } from "../../shores/Told";
import { NewCrossing } from "./NewCrossing";

export default function Crossings() {
  const all = useCrossings();
  const list = all.data ?? [];
  useKeys([{ key: "n", says: "new crossing", run: () => document.getElementById("new-address")?.focus() }]);
  return (
    <div className="frame bare">
      <Head />
      <main>
        <div className="title">
          <h1>Crossings</h1>
          <span className="aside">{list.length ? `${count(list.length)} in this workspace` : ""}</span>
        </div>
        <Told error={all.error} />
        <div className="shores">
          <section className="panel" style={{ flex: 1 }} aria-label="All crossings">
            <h2>
              All crossings <small>pale is planned, solid is proven by a check</small>
            </h2>
            <div className="scroll">
              {list.map((crossing) => {
                const open = crossing.account.find((f) => f.fate === "unaccounted")?.planned ?? 0;
                const planned = crossing.account.reduce(
                  (sum, f) => sum + (f.fate === "unaccounted" ? 0 : f.planned),
                  0,
                );
                const done = crossing.addresses > 0 && !open && !planned;
                return (
                  <Link
                    key={crossing.id}
                    to={`/c/${crossing.id}/manifest`}
                    className="todo"
                    style={{ color: "inherit", textDecoration: "none", flexDirection: "column", gap: 4 }}
                  >
                    <span style={{ display: "flex", gap: 10, width: "100%", alignItems: "baseline" }}>
                      <b
                        style={{
                          width: "auto",
                          overflow: "hidden",
                          textOverflow: "ellipsis",
                          whiteSpace: "nowrap",
                          flex: "0 1 auto",
                        }}
                      >
                        {crossing.name}
                      </b>
                      <span className="soft nowrap">
                        {many(crossing.addresses, "old address", "old addresses")} · begun {when(crossing.created)}
                      </span>
                      <span className="sp" />
                      <span
                        className="nowrap"
                        style={{
                          color: open ? "var(--orange)" : done ? "var(--good)" : "var(--soft)",
                          fontWeight: 600,
                        }}
                      >
                        {crossing.addresses === 0
                          ? "not surveyed"
                          : done
                            ? "all proven"
                            : open
                              ? `${count(open)} unaccounted`
                              : `${count(planned)} planned`}
                      </span>
                    </span>
                    {crossing.addresses > 0 && (
                      <span style={{ display: "flex", width: "100%", height: 32 }}>
                        <FateBar account={crossing.account} />
                      </span>
                    )}
                  </Link>
                );
              })}
              {!list.length && !all.isPending && (
                <div className="empty">
                  <b>No crossing yet.</b>
                  Paste the address of the old site at the right. It is asked at once, and nothing is fetched beyond
                  that page before you say so.
                </div>
              )}
            </div>
          </section>
          <NewCrossing />
        </div>
      </main>
    </div>
  );
}
