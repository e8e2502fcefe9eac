/** One group of pages made alike: its drawing, its rule, and what may be made of it. */
import { Button } from "@mui/material";
import { useEffect, useRef } from "react";
import { Go } from "../../shell/Go";
import { count, many } from "../../shell/state";
import { Addr } from "../../shores/Addr";
import { says } from "./kind";
import { Miniature } from "./Miniature";
import { NewKind } from "./NewKind";
import type { Group } from "./queries";

interface Props {
  group: Group;
  cut: number;
  on: boolean;
  chosen: boolean;
  naming: boolean;
  finest: boolean;
  onOpen: () => void;
  onName: (open: boolean) => void;
  onPick: () => void;
  onDivide: () => void;
}

export function GroupCard({ group, on, chosen, naming, cut, finest, onOpen, onName, onPick, onDivide }: Props) {
  const card = useRef<HTMLDivElement>(null);
  useEffect(() => {
    if (on) card.current?.scrollIntoView({ block: "nearest" });
  }, [on]);
  const [kind, most] = Object.entries(group.kinds)[0] ?? ["", 0];
  const others = Object.keys(group.kinds).length - 1;
  const act = (run: () => void) => (e: { stopPropagation: () => void }) => (e.stopPropagation(), run());
  return (
    <div ref={card} className={`card make${on ? " on" : ""}`} role="listitem" aria-current={on} onClick={onOpen}>
      <input
        type="checkbox"
        aria-label={`choose the group like ${group.key}`}
        checked={chosen}
        onClick={(e) => e.stopPropagation()}
        onChange={onPick}
      />
      <Miniature drawing={group.drawing} />
      <div className="about">
        <span>
          <b>{many(group.pages, "page")}</b> like <Addr of={group.key} />
        </span>
        <span className="soft">{says(group.rule)}</span>
        <span className={group.missed || group.wrong ? "soft" : "fits"}>
          {count(group.right)} right · {count(group.missed)} missed · {count(group.wrong)} of others
        </span>
      </div>
      <div className="then">
        {naming ? (
          <NewKind groups={[group]} cut={cut} onDone={() => onName(false)} />
        ) : (
          <>
            {on && group.pages > 1 && !finest && (
              <button className="linkish" onClick={act(onDivide)} title="Look at what it comes apart into">
                divide <kbd>V</kbd>
              </button>
            )}
            {kind && (most * 2 > group.pages || group.sorted === group.pages) ? (
              <Go to={`sort?tab=kinds&kind=${encodeURIComponent(kind)}`}>
                → {kind}
                {most < group.pages && ` (${count(most)})`}
                {others > 0 && ` and ${many(others, "more kind")}`}
              </Go>
            ) : (
              <Button variant={on ? "contained" : "outlined"} onClick={act(() => onName(true))}>
                New kind {on && <kbd>N</kbd>}
              </Button>
            )}
          </>
        )}
      </div>
    </div>
  );
}
