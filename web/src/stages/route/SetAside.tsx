/** What is left out on purpose, by pattern, with its reason. */
import { Button, TextField } from "@mui/material";
import { useState } from "react";
import { useChangePlan, usePlan } from "../../shell/state";
import { Told } from "../../shores/Told";

export function SetAside() {
  const plan = usePlan();
  const save = useChangePlan();
  const aside = plan.data?.plan.route?.aside ?? [];
  const [pattern, setPattern] = useState("");
  const [reason, setReason] = useState("");
  return (
    <section className="panel" style={{ flex: 1 }} aria-label="Set aside">
      <h2>
        Set aside <small>left out on purpose, with a reason</small>
      </h2>
      <div className="scroll" tabIndex={0} role="region" aria-label="Set aside">
        <table className="plain">
          <tbody>
            {aside.map((a, n) => (
              <tr key={a.address + n}>
                <td className="mono">{a.address}</td>
                <td>{a.reason}</td>
                <td className="n">
                  <button
                    className="linkish"
                    onClick={() =>
                      save.mutate({
                        text: `${a.address} no longer set aside`,
                        decide: true,
                        change: (p) => void p.route?.aside?.splice(n, 1),
                      })
                    }
                  >
                    remove
                  </button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <Told error={save.error} />
      <form
        className="form"
        onSubmit={(e) => {
          e.preventDefault();
          save.mutate(
            {
              text: `set aside: ${pattern}`,
              decide: true,
              change: (p) => void ((p.route ??= {} as never).aside ??= []).push({ address: pattern, reason }),
            },
            { onSuccess: () => (setPattern(""), setReason("")) },
          );
        }}
      >
        <TextField
          label="Addresses of this pattern (RE2)"
          placeholder="/img/.*"
          value={pattern}
          onChange={(e) => setPattern(e.target.value)}
          slotProps={{ htmlInput: { className: "mono", spellCheck: false } }}
        />
        <div className="two">
          <TextField label="Why" value={reason} onChange={(e) => setReason(e.target.value)} />
          <Button type="submit" variant="outlined" disabled={!pattern || reason.trim().length < 3 || save.isPending}>
            Set aside
          </Button>
        </div>
      </form>
    </section>
  );
}
