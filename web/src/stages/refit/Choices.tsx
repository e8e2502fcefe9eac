/** How Markdown says what it has no mark for: a choice for each, and what is left out by it. */
import { MenuItem, TextField } from "@mui/material";
import { BUSY, off } from "../../shell/off";
import { count, many, useChangePlan, useStart } from "../../shell/state";
import { Told } from "../../shores/Told";
import { useChoices } from "./queries";
import { CHOICES, ODD } from "./words";

export function Choices() {
  const choices = useChoices();
  const save = useChangePlan();
  const start = useStart();
  const choose = (name: string, choice: string, first: string) =>
    save.mutate(
      {
        text: `Markdown: ${ODD[name] ?? name} as ${CHOICES[choice] ?? choice}`,
        change: (p) => {
          const mine: Record<string, string> = { ...p.refit?.markdown, [name]: choice };
          if (choice === first) delete mine[name];
          p.refit = { ...p.refit, markdown: mine };
        },
      },
      { onSuccess: () => start.mutate({ kind: "refit" }) },
    );
  return (
    <section className="panel" style={{ flex: 1 }} aria-label="Markdown">
      <h2>
        What Markdown has no mark for <small>how it is written</small>
      </h2>
      <Told error={choices.error ?? save.error ?? start.error} />
      <div className="scroll" tabIndex={0} role="region" aria-label="Choices">
        <table className="plain">
          <thead>
            <tr>
              <th>construct</th>
              <th>is written as</th>
              <th className="n">left out</th>
            </tr>
          </thead>
          <tbody>
            {(choices.data ?? []).map((one) => (
              <tr key={one.name}>
                <td>{ODD[one.name] ?? one.name}</td>
                <td>
                  <TextField
                    select
                    variant="standard"
                    sx={{ "& .MuiSelect-select": { fontSize: 13, py: 0 } }}
                    value={one.chosen}
                    onChange={(e) => choose(one.name, e.target.value, one.can[0] ?? "")}
                    slotProps={{ htmlInput: { "aria-label": ODD[one.name] ?? one.name } }}
                    {...off([save.isPending, BUSY])}
                  >
                    {one.can.map((choice, n) => (
                      <MenuItem key={choice} value={choice}>
                        {CHOICES[choice] ?? choice}
                        {n === 0 && <span className="soft">&nbsp;(as a rule)</span>}
                      </MenuItem>
                    ))}
                  </TextField>
                </td>
                <td className="n">
                  {one.left_out > 0 && `${count(one.left_out)} in ${many(one.bodies, "body", "bodies")}`}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </section>
  );
}
