/** What gives access to protected parts of a site: given once, tried at once, shown masked. */
import { Button, MenuItem, TextField } from "@mui/material";
import { useState } from "react";
import { Told } from "../../shores/Told";
import { useAccess } from "./queries";
import { BUSY, off } from "../../shell/off";

const KINDS = { basic: "name and password", header: "request header", cookie: "cookie" } as const;
type Kind = keyof typeof KINDS;

export function Access({ host }: { host: string }) {
  const [kind, setKind] = useState<Kind>("basic");
  const [at, setAt] = useState("");
  const [name, setName] = useState("");
  const [value, setValue] = useState("");
  const { held, test, give, forget } = useAccess(() => (setName(""), setValue("")));
  const ready = name.trim() && value && !give.isPending;
  const submit = () => ready && give.mutate({ host: at.trim() || host, kind, name: name.trim(), value });
  return (
    <div
      role="group"
      aria-label="Access"
      onKeyDown={(e) => e.key === "Enter" && e.target instanceof HTMLInputElement && (e.preventDefault(), submit())}
    >
      <b>Access</b> <span className="soft">for protected parts; kept apart, never shown or given out again</span>
      <table className="plain">
        <tbody>
          {(held.data ?? []).map((row) => (
            <tr key={row.host + row.kind + row.name}>
              <td className="mono">{row.host}</td>
              <td>{KINDS[row.kind as Kind] ?? row.kind}</td>
              <td className="mono">
                {row.name} {row.shown}
              </td>
              <td className="n">
                <button type="button" className="linkish" onClick={() => forget.mutate(row)}>
                  forget
                </button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <div style={{ display: "flex", flexDirection: "column", gap: 8, marginTop: 8 }}>
        <div className="two">
          <TextField select label="Kind of access" value={kind} onChange={(e) => setKind(e.target.value as Kind)}>
            {Object.entries(KINDS).map(([k, says]) => (
              <MenuItem key={k} value={k}>
                {says}
              </MenuItem>
            ))}
          </TextField>
          <TextField
            label="Host"
            placeholder={host}
            value={at}
            onChange={(e) => setAt(e.target.value)}
            slotProps={{ htmlInput: { className: "mono" } }}
          />
        </div>
        <div className="two">
          <TextField
            label={kind === "basic" ? "Name" : kind === "header" ? "Header" : "Cookie"}
            value={name}
            onChange={(e) => setName(e.target.value)}
            slotProps={{ htmlInput: { autoComplete: "off" } }}
          />
          <TextField
            label={kind === "basic" ? "Password" : "Value"}
            type="password"
            value={value}
            onChange={(e) => setValue(e.target.value)}
            slotProps={{ htmlInput: { autoComplete: "new-password" } }}
          />
        </div>
        <Told error={held.error ?? give.error ?? forget.error ?? test.error} />
        <div className="acts">
          <Button
            type="button"
            variant="outlined"
            {...off([!ready, "Something is still to be filled in."])}
            onClick={submit}
          >
            Keep and try
          </Button>
          <Button type="button" onClick={() => test.mutate()} {...off([test.isPending, BUSY])}>
            Try the start address
          </Button>
        </div>
        {test.data && (
          <div className="told" role="status" style={test.data.good ? undefined : { borderColor: "var(--bad)" }}>
            {test.data.says}
          </div>
        )}
      </div>
    </div>
  );
}
