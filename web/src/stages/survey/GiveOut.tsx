/** Everything the survey knows, as a file: the addresses for a sheet or a script, the captures as an archive. */
import { Button, Menu, MenuItem } from "@mui/material";
import { useState } from "react";
import { useCrossingId } from "../../shell/state";

const FORMS = [
  ["csv", "Addresses as CSV"],
  ["xlsx", "Addresses as a workbook (XLSX)"],
  ["json", "Addresses as JSON"],
  ["warc.gz", "Captures as an archive (WARC 1.1)"],
] as const;

export function GiveOut() {
  const id = useCrossingId();
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  return (
    <>
      <Button variant="outlined" aria-haspopup="menu" onClick={(e) => setAnchor(e.currentTarget)}>
        Give out
      </Button>
      <Menu anchorEl={anchor} open={anchor !== null} onClose={() => setAnchor(null)} slotProps={{ list: { "aria-label": "Give out", dense: true } }}>
        {FORMS.map(([form, label]) => (
          <MenuItem key={form} component="a" href={`/api/crossings/${id}/addresses/file/${form}`} download onClick={() => setAnchor(null)}>
            {label}
          </MenuItem>
        ))}
      </Menu>
    </>
  );
}
