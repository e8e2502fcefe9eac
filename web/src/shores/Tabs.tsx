/** Tabs as links, so that each has an address of its own, found as it was left. What the fate bar narrowed stays
 * narrowed, and the side the same. */
import { Link, useLocation } from "react-router";
import { leftIn } from "../shell/Go";
import { useCrossingId, useLink } from "../shell/state";

export function Tabs({ tabs, at, first }: { tabs: [string, string][]; at: string; first: string }) {
  const { pathname } = useLocation();
  const id = useCrossingId();
  const link = useLink();
  const fates = link.all("fate");
  const search = (tab: string) => {
    const side = link.get("side");
    const made = new URLSearchParams(leftIn(id, pathname.split("/")[3] || "manifest", side, tab === first ? "" : tab));
    made.delete("fate");
    fates.forEach((fate) => made.append("fate", fate));
    if (side) made.set("side", side);
    if (tab === first) made.delete("tab");
    else made.set("tab", tab);
    return made.toString();
  };
  return (
    <nav className="tabs" aria-label="Parts of this view">
      {tabs.map(([id, label]) => (
        <Link
          key={id}
          to={{ pathname, search: search(id) }}
          className={at === id ? "on" : ""}
          aria-current={at === id ? "page" : undefined}
        >
          {label}
        </Link>
      ))}
    </nav>
  );
}
