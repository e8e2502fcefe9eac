/** What is done with several files at once: a role for all of them, or a reason for which they stay behind. */
import { Button, MenuItem, TextField } from "@mui/material";
import { useState } from "react";
import { BUSY, off } from "../../shell/off";
import { many, usePlan } from "../../shell/state";
import type { Schemas } from "../../api/client";

type Say = Partial<Pick<Schemas["FileSaid"], "role" | "aside">>;

export function Chosen({ number, busy, onSay }: { number: number; busy: boolean; onSay: (say: Say) => void }) {
  const plan = usePlan();
  const [why, setWhy] = useState("");
  const roles = plan.data?.plan.media?.roles ?? [];
  return (
    <span className="acts" style={{ marginLeft: "auto" }}>
      {roles.length > 0 && (
        <TextField
          select
          fullWidth={false}
          sx={{ width: 130 }}
          value=""
          onChange={(e) => onSay({ role: e.target.value === "-" ? "" : e.target.value })}
          slotProps={{
            select: { displayEmpty: true, renderValue: () => `${many(number, "file")} for…` },
            htmlInput: { "aria-label": "what the chosen files are for" },
          }}
          {...off([busy, BUSY])}
        >
          {roles.map((one) => (
            <MenuItem key={one.name} value={one.name}>
              {one.name}
            </MenuItem>
          ))}
          <MenuItem value="-">nothing said</MenuItem>
        </TextField>
      )}
      <TextField
        fullWidth={false}
        sx={{ width: 170 }}
        placeholder="why they stay behind"
        value={why}
        onChange={(e) => setWhy(e.target.value)}
        slotProps={{ htmlInput: { "aria-label": "why the chosen files stay behind" } }}
      />
      <Button
        variant="outlined"
        {...off([busy, BUSY], [why.trim().length < 3, "Say in a few words why."])}
        onClick={() => onSay({ aside: why.trim() })}
      >
        Leave behind
      </Button>
    </span>
  );
}
