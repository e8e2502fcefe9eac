/** Many addresses at once: each asked and given its verdict; the good ones are ticked and made into crossings. */
import { Button, Checkbox, TextField } from "@mui/material";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { count, many } from "../../shell/state";
import { useUnsaved } from "../../shell/unsaved";
import { Told } from "../../shores/Told";
import { useAskMany, useMakeMany } from "./queries";
import { BUSY, off } from "../../shell/off";

type Verdict = Schemas["VerdictOut"];
const siteOf = (address: string) => address.replace(/^https?:\/\/(www\.)?/, "").split("/")[0] ?? "";

export function Many({ onDone }: { onDone: () => void }) {
  const [text, setText] = useState("");
  const [find, setFind] = useState("");
  const [ticked, setTicked] = useState<Set<number>>(new Set());
  const lines = text.split("\n").filter((line) => line.trim());
  const ask = useAskMany((found) => setTicked(new Set(found.flatMap((v, n) => (v.good ? [n] : [])))));
  const make = useMakeMany(onDone);
  const found = ask.data;
  useUnsaved("many-crossings", found && !make.isSuccess ? "the pasted addresses" : "");
  const shown = (found ?? [])
    .map((v, n) => ({ v, n }))
    .filter(({ v }) => !find || `${v.given} ${v.title} ${v.says}`.toLowerCase().includes(find.toLowerCase()));
  const may = (v: Verdict) => v.good || v.kind === "wants a login";
  const chosen = (found ?? []).filter((_, n) => ticked.has(n));
  const sites = new Set(chosen.map((v) => siteOf(v.address))).size;
  const tick = (ns: number[], on: boolean) =>
    setTicked((had) => new Set(on ? [...had, ...ns] : [...had].filter((n) => !ns.includes(n))));
  const all = shown.filter(({ v }) => may(v)).map(({ n }) => n);
  if (!found)
    return (
      <div className="form">
        <TextField
          label="Addresses, one a line"
          multiline
          minRows={8}
          maxRows={16}
          value={text}
          onChange={(e) => setText(e.target.value)}
          slotProps={{ htmlInput: { className: "mono" } }}
          autoFocus
        />
        <Told error={ask.error} />
        <div className="acts">
          <Button
            variant="contained"
            {...off([!lines.length, "Nothing is written there yet."], [ask.isPending, BUSY])}
            onClick={() => ask.mutate(lines)}
          >
            {ask.isPending ? "Asking…" : `Ask ${many(lines.length, "address", "addresses")}`}
          </Button>
          <Button onClick={onDone}>One address instead</Button>
        </div>
      </div>
    );
  return (
    <>
      <div className="filters">
        <button className="linkish" onClick={() => tick(all, true)}>
          choose all good
        </button>
        <button className="linkish" onClick={() => tick(all, false)}>
          choose none
        </button>
        <input
          className="find"
          placeholder="find in these"
          aria-label="find in these"
          value={find}
          onChange={(e) => setFind(e.target.value)}
        />
      </div>
      <div className="scroll" tabIndex={0} role="region" aria-label="Verdicts">
        <table className="plain">
          <tbody>
            {shown.map(({ v, n }) => (
              <tr key={n}>
                <td style={{ width: 30 }}>
                  <Checkbox
                    checked={ticked.has(n)}
                    {...off([!may(v), "This address cannot be surveyed."])}
                    onChange={(e) => tick([n], e.target.checked)}
                    slotProps={{ input: { "aria-label": `take ${v.given}` } }}
                  />
                </td>
                <td style={{ overflowWrap: "anywhere" }}>
                  <span className="mono">{v.given}</span>
                  {v.title && <div className="soft">{v.title}</div>}
                </td>
                <td style={{ width: "42%", overflowWrap: "anywhere" }}>
                  <b>{v.kind}</b>
                  <div className="soft">{v.says}</div>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <Told error={make.error} />
      <div className="acts pad" style={{ padding: 12 }}>
        <Button
          variant="contained"
          {...off([!chosen.length, "None is chosen."], [make.isPending, BUSY])}
          onClick={() => make.mutate(chosen)}
        >
          Make {many(sites, "crossing")} of {many(chosen.length, "address", "addresses")}
        </Button>
        <Button onClick={() => ask.reset()}>Back to the lines</Button>
        <span className="soft">{count(found.length - chosen.length)} stay out</span>
      </div>
    </>
  );
}
