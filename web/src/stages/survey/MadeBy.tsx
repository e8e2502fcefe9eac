/** The system that made a site, by its marks, and its starting rules. */
import { MenuItem, TextField } from "@mui/material";
import { useChangePlan, usePlan } from "../../shell/state";
import { Told } from "../../shores/Told";
import { NOT_ASKED, usePresets, useSide } from "./queries";
import { boundsOf, setBounds } from "./scopeForm";

const OTHER = "other"; // a person's word that none are to hold

export interface System {
  name: string;
  marks: string[];
  known: boolean;
}
/** The system that made the site: the guess with its mark, and the starting rules somebody chose. */
export function MadeBy({ systems }: { systems?: System[] }) {
  const plan = usePlan();
  const save = useChangePlan();
  const presets = usePresets();
  const side = useSide();
  const chosen = (plan.data && boundsOf(plan.data.plan, side)?.preset) ?? "";
  const rules = presets.data?.find((p) => p.name === chosen);
  return (
    <>
      {systems?.map((s) => (
        <div key={s.name}>
          <b>{s.name}</b> <span className="soft">by {s.marks.join(", ")}</span>
        </div>
      ))}
      {!systems?.length && <div>{systems ? "It does not say." : NOT_ASKED}</div>}
      <TextField
        select
        label="Starting rules"
        slotProps={{ select: { displayEmpty: true }, inputLabel: { shrink: true } }}
        value={presets.data ? chosen : ""}
        sx={{ mt: 1, minWidth: 220 }}
        onChange={(e) =>
          save.mutate({
            text:
              e.target.value === OTHER
                ? "no starting rules"
                : `starting rules ${e.target.value ? `for ${e.target.value}` : "as recognised"}`,
            change: (p) => setBounds(p, side, { preset: e.target.value }),
            from: plan.data,
          })
        }
      >
        <MenuItem value="">as recognised</MenuItem>
        <MenuItem value={OTHER}>other: none</MenuItem>
        {(presets.data ?? []).map((p) => (
          <MenuItem key={p.name} value={p.name}>
            {p.name}
          </MenuItem>
        ))}
      </TextField>
      <Told error={save.error} />
      {rules && (
        <div className="soft">
          Left out: <span className="mono">{rules.exclude.join("  ")}</span>
          <br />
          Parameters dropped: <span className="mono">{rules.drop.join(" ")}</span>
        </div>
      )}
    </>
  );
}
