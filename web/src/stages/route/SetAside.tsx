/** What is left out on purpose, by pattern, with its reason. */
import { Button, TextField } from "@mui/material";
import { useState } from "react";
import { useChangePlan, usePlan } from "../../shell/state";
import { Told } from "../../shores/Told";
import { BUSY, off } from "../../shell/off";

export function SetAside() {
  const plan = usePlan();
  const save = useChangePlan();
  const aside = plan.data?.plan.route?.aside ?? [];
  const accepted = plan.data?.plan.route?.accept ?? [];
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
        {accepted.length > 0 && (
          <table className="plain" aria-label="Accepted landing pages">
            <thead>
              <tr>
                <th>accepted landing page of</th>
                <th>why it is right</th>
                <th />
              </tr>
            </thead>
            <tbody>
              {accepted.map((a, n) => (
                <tr key={a.address + n}>
                  <td className="mono">{a.address}</td>
                  <td>{a.reason}</td>
                  <td className="n">
                    <button
                      className="linkish"
                      onClick={() =>
                        save.mutate({
                          text: `landing page of ${a.address} no longer accepted`,
                          change: (p) => void p.route?.accept?.splice(n, 1),
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
        )}
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
          <Button
            type="submit"
            variant="outlined"
            {...off(
              [!pattern, "Write the pattern first."],
              [reason.trim().length < 3, "Give a reason, of three letters or more."],
              [save.isPending, BUSY],
            )}
          >
            Set aside
          </Button>
        </div>
      </form>
    </section>
  );
}
