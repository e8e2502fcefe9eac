/** Tabs as links, so that each has an address of its own. What the fate bar narrowed stays narrowed. */
import { Link, useLocation } from "react-router";
import { useLink } from "../shell/state";

export function Tabs({ tabs, at, first }: { tabs: [string, string][]; at: string; first: string }) {
  const { pathname } = useLocation();
  const fates = useLink().all("fate");
  const search = (tab: string) => {
    const made = new URLSearchParams(fates.map((fate) => ["fate", fate]));
    if (tab !== first) made.set("tab", tab);
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
