/** Tabs as links, so that each has an address of its own. */
import { Link, useLocation } from "react-router";

export function Tabs({ tabs, at, first }: { tabs: [string, string][]; at: string; first: string }) {
  const { pathname } = useLocation();
  return (
    <nav className="tabs" aria-label="Parts of this view">
      {tabs.map(([id, label]) => (
        <Link key={id} to={{ pathname, search: id === first ? "" : `?tab=${id}` }} className={at === id ? "on" : ""} aria-current={at === id ? "page" : undefined}>
          {label}
        </Link>
      ))}
    </nav>
  );
}
