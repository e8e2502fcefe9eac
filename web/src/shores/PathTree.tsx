/** A site as a tree of folders; every count comes from the server, so that it opens at once at any size. */
import { useMemo, useRef, useState } from "react";
import type { Schemas } from "../api/client";
import { useBranches } from "../shell/queries";
import { count } from "../shell/state";
import { readable } from "./Addr";
import { Told } from "./Told";

interface Open {
  host: string;
  below: string;
}
type Line = Schemas["Branch"] & {
  host: string;
  path: string;
  level: number;
  opens: boolean;
  open: boolean;
};
const id = (o: Open) => `${o.host} ${o.below}`;

export function PathTree({
  side,
  own,
  host,
  below,
  onChoose,
}: {
  side: "old" | "new";
  own: string;
  host: string;
  below: string;
  onChoose: (host: string, below: string) => void;
}) {
  const [open, setOpen] = useState<Open[]>(() => [
    { host: "", below: "/" },
    { host: own, below: "/" },
  ]);
  const box = useRef<HTMLDivElement>(null);
  const asked = useBranches(side, open);
  const lines = useMemo(() => {
    const known = new Map(open.map((o, n) => [id(o), asked[n]?.data]));
    const made: Line[] = [];
    const add = (hostName: string, path: string, level: number) => {
      for (const branch of known.get(id({ host: hostName, below: path })) ?? []) {
        if (!branch.name) continue;
        const next = path + branch.name;
        const isOpen = known.has(id({ host: hostName, below: next }));
        made.push({ ...branch, host: hostName, path: next, level, opens: branch.name.endsWith("/"), open: isOpen });
        if (isOpen) add(hostName, next, level + 1);
      }
    };
    const hosts = [...(known.get(id({ host: "", below: "/" })) ?? [])].sort(
      (a, b) => Number(b.name === own) - Number(a.name === own),
    );
    for (const branch of hosts) {
      const isOpen = known.has(id({ host: branch.name, below: "/" }));
      made.push({ ...branch, host: branch.name, path: "/", level: 1, opens: true, open: isOpen });
      if (isOpen) add(branch.name, "/", 2);
    }
    return made;
  }, [open, asked, own]);
  const flip = (line: Line) => {
    const wanted = { host: line.host, below: line.path };
    setOpen((had) => (line.open ? had.filter((o) => id(o) !== id(wanted)) : [...had, wanted]));
  };
  const chosen = lines.findIndex((l) => l.host === host && l.path === (below || "/") && (below !== "" || host !== ""));
  const focus = (n: number) =>
    box.current?.querySelectorAll<HTMLElement>("[role=treeitem]")[Math.max(0, Math.min(lines.length - 1, n))]?.focus();
  return (
    <>
      <Told error={asked.find((q) => q.error)?.error} />
      <div className="tree scroll" role="tree" aria-label={`Folders of the ${side} site`} ref={box}>
        {lines.map((line, n) => (
          <div
            key={id({ host: line.host, below: line.path })}
            role="treeitem"
            aria-level={line.level}
            aria-selected={n === chosen}
            aria-expanded={line.opens ? line.open : undefined}
            tabIndex={n === Math.max(0, chosen) ? 0 : -1}
            className={n === chosen ? "on" : ""}
            style={{ paddingLeft: 8 + (line.level - 1) * 14 }}
            title={
              `${line.level === 1 ? line.host : line.path}: ${count(line.addresses)} addresses` +
              (side === "old" ? `, ${count(line.counted)} in the account, ${count(line.unaccounted)} unaccounted` : "")
            }
            onClick={(e) => {
              if ((e.target as Element).closest(".tw") && line.opens) flip(line);
              else if (n === chosen) onChoose("", "");
              else onChoose(line.host, line.path);
            }}
            onKeyDown={(e) => {
              if (e.key === "ArrowDown") focus(n + 1);
              else if (e.key === "ArrowUp") focus(n - 1);
              else if (e.key === "ArrowRight" && line.opens && !line.open) flip(line);
              else if (e.key === "ArrowLeft" && line.open) flip(line);
              else if (e.key === "Enter" || e.key === " ")
                onChoose(n === chosen ? "" : line.host, n === chosen ? "" : line.path);
              else return;
              e.preventDefault();
              e.stopPropagation();
            }}
          >
            <span className="tw" aria-hidden>
              {line.opens ? (line.open ? "▾" : "▸") : ""}
            </span>
            <span className="nm">{line.level === 1 ? line.host : readable(line.name)}</span>
            <em>
              {line.unaccounted > 0 && (
                <b>
                  <span className="vh">unaccounted </span>▨ {count(line.unaccounted)}{" "}
                </b>
              )}
              {line.unaccounted > 0 && "of "}
              {count(line.addresses)}
            </em>
          </div>
        ))}
      </div>
    </>
  );
}
