/** Tabs as links, so that each has an address of its own, found as it was left. What the fate bar narrowed stays
 * narrowed, and the side the same. Those for which a head has no room stand in a menu behind the others. */
import { Menu, MenuItem } from "@mui/material";
import { useLayoutEffect, useRef, useState } from "react";
import { Link, useLocation } from "react-router";
import { leftIn } from "../shell/Go";
import { useCrossingId, useLink } from "../shell/state";

/** How many of the first children of a line that wraps stand in its first row. */
function useFitting(labels: string) {
  const line = useRef<HTMLElement>(null);
  const [fitting, setFitting] = useState(Infinity);
  useLayoutEffect(() => {
    const at = line.current;
    if (!at) return;
    const measure = () => {
      const tops = [...at.children].map((child) => (child as HTMLElement).offsetTop);
      const wrapped = tops.findIndex((top) => top > (tops[0] ?? 0));
      setFitting(wrapped < 0 ? Infinity : wrapped);
    };
    measure();
    const seen = new ResizeObserver(measure);
    seen.observe(at);
    return () => seen.disconnect();
  }, [labels]);
  return { line, fitting };
}

export function Tabs({ tabs, at, first }: { tabs: [string, string][]; at: string; first: string }) {
  const { pathname } = useLocation();
  const id = useCrossingId();
  const link = useLink();
  const fates = link.all("fate");
  const { line, fitting } = useFitting(tabs.map(([, label]) => label).join("\t"));
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
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
  const more = tabs.slice(fitting);
  const chosen = more.find(([id]) => id === at);
  return (
    <nav className="tabs folding" aria-label="Parts of this view">
      <span className="line" ref={line}>
        {tabs.map(([id, label], n) => (
          <Link
            key={id}
            to={{ pathname, search: search(id) }}
            className={at === id ? "on" : ""}
            aria-current={at === id ? "page" : undefined}
            style={n >= fitting ? { visibility: "hidden" } : undefined}
          >
            {label}
          </Link>
        ))}
      </span>
      {more.length > 0 && (
        <>
          <button
            className={`more${chosen ? " on" : ""}`}
            aria-haspopup="menu"
            aria-expanded={anchor !== null}
            onClick={(e) => setAnchor(e.currentTarget)}
          >
            {chosen ? chosen[1] : `More (${more.length})`} ▾
          </button>
          <Menu
            anchorEl={anchor}
            open={anchor !== null}
            onClose={() => setAnchor(null)}
            slotProps={{ list: { "aria-label": "More parts", dense: true } }}
          >
            {more.map(([id, label]) => (
              <MenuItem
                key={id}
                component={Link}
                to={{ pathname, search: search(id) }}
                selected={at === id}
                onClick={() => setAnchor(null)}
              >
                {label}
              </MenuItem>
            ))}
          </Menu>
        </>
      )}
    </nav>
  );
}
