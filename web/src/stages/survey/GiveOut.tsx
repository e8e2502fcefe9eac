/** Everything the survey knows, as a file: the addresses for a sheet or a script, the captures as an archive or a copy. */
import { Button, Menu, MenuItem } from "@mui/material";
import { useState } from "react";
import { count, useCrossingId, useJobs, useStart } from "../../shell/state";
import { useLive } from "../../shores/Run";
import { Told } from "../../shores/Told";
import { useSide } from "./queries";
import { off } from "../../shell/off";

const FORMS = [
  ["csv", "Addresses as CSV"],
  ["xlsx", "Addresses as a workbook (XLSX)"],
  ["json", "Addresses as JSON"],
  ["warc.gz", "Captures as an archive (WARC 1.1)"],
] as const;

export function GiveOut() {
  const id = useCrossingId();
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const start = useStart();
  const side = useSide();
  const making = useLive(["copy"], side);
  const made = useJobs().data?.find((job) => job.kind === "copy" && job.side === side && job.state === "done");
  const copy = made?.result as { file: string; files: number; unresolved: number } | undefined;
  return (
    <>
      <Button variant="outlined" aria-haspopup="menu" onClick={(e) => setAnchor(e.currentTarget)}>
        Give out
      </Button>
      <Told error={start.error} />
      <Menu
        anchorEl={anchor}
        open={anchor !== null}
        onClose={() => setAnchor(null)}
        slotProps={{ list: { "aria-label": "Give out", dense: true } }}
      >
        {FORMS.map(([form, label]) => (
          <MenuItem
            key={form}
            component="a"
            href={`/api/crossings/${id}/addresses/file/${form}?side=${side}`}
            download
            onClick={() => setAnchor(null)}
          >
            {label}
          </MenuItem>
        ))}
        {(side === "old" ? (["csv", "xlsx"] as const) : []).map((form) => (
          <MenuItem
            key={`decisions-${form}`}
            component="a"
            href={`/api/crossings/${id}/decisions/file/${form}`}
            download
            onClick={() => setAnchor(null)}
          >
            Decisions to alter and bring back ({form.toUpperCase()})
          </MenuItem>
        ))}
        {copy && !making && (
          <MenuItem
            component="a"
            href={`/api/crossings/${id}/copies/${copy.file}`}
            download
            onClick={() => setAnchor(null)}
          >
            Offline copy (ZIP){" "}
            <span className="soft" style={{ marginLeft: 8 }}>
              {count(copy.files)} files, {count(copy.unresolved)} unresolved
            </span>
          </MenuItem>
        )}
        <MenuItem
          {...off([!!making, "A copy is being made."])}
          onClick={() => (start.mutate({ kind: "copy", side }), setAnchor(null))}
        >
          {making
            ? "The offline copy is being made"
            : copy
              ? "Make the offline copy anew"
              : "Make an offline copy (ZIP)"}
        </MenuItem>
      </Menu>
    </>
  );
}
