/** What is kept out, by host and reason, and the ways to let each in. */
import { Button } from "@mui/material";
import type { Schemas } from "../../api/client";
import { count, many } from "../../shell/state";
import { BUSY, off } from "../../shell/off";

export type Group = Schemas["KeptOutGroup"];
export type Way = Schemas["LettingIn"]["way"];

const WAYS: Record<Way, string> = {
  files: "Take its files",
  pages: "Take its pages too",
  alias: "It is the same site",
  these: "Take them",
  endless: "Take them all",
};

interface Props {
  list: Group[];
  known: boolean;
  chosen: Group | undefined;
  busy: boolean;
  onChoose: (group: Group | null) => void;
  onLetIn: (group: Group, way: Way) => void;
}

export function KeptOutGroups({ list, known, chosen, busy, onChoose, onLetIn }: Props) {
  return (
    <div className="scroll" tabIndex={0} role="region" aria-label="Groups">
      {list.map((group) => {
        const on = group === chosen;
        return (
          <div key={group.host + group.reason} className={`group${on ? " on" : ""}`}>
            <button type="button" className="pick" aria-pressed={on} onClick={() => onChoose(on ? null : group)}>
              <span className="mono">{group.host}</span>
              <em>{count(group.count)}</em>
              <small>
                {group.says}
                {group.files > 0 && group.files < group.count
                  ? `; ${many(group.files, "file")}`
                  : group.files
                    ? "; files"
                    : ""}
              </small>
            </button>
            {on && (
              <div className="acts">
                {group.ways.map((way) => (
                  <Button key={way} variant="outlined" {...off([busy, BUSY])} onClick={() => onLetIn(group, way)}>
                    {WAYS[way]}
                  </Button>
                ))}
                {!group.ways.length && (
                  <span className="soft">To fetch them, say in manners that you act for the owner.</span>
                )}
              </div>
            )}
          </div>
        );
      })}
      {!list.length && known && (
        <div className="empty">Nothing was kept out. Every address that was met lies within the bounds.</div>
      )}
    </div>
  );
}
