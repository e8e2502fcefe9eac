/** A redirect rule while it is written: everything it would catch is shown before it is saved. */
import { Button, MenuItem, TextField } from "@mui/material";
import { useEffect, useState } from "react";
import { count, many, useChangePlan } from "../../shell/state";
import { useUnsaved } from "../../shell/unsaved";
import { Told } from "../../shores/Told";
import { Foreign, useForeign } from "./Foreign";
import { useTriedRule, type Rule } from "./queries";
import { BUSY, off } from "../../shell/off";

const EFFECT: Record<string, string> = {
  settles: "settles",
  agrees: "agrees with what is decided",
  disagrees: "disagrees with another rule",
  hides: "would hide an address that stays",
  already: "decided otherwise before rules are asked",
};

export function RuleForm({ rule, index, onDone }: { rule: Rule; index: number; onDone: () => void }) {
  const [draft, setDraft] = useState(rule);
  const foreign = useForeign(draft.new);
  const save = useChangePlan();
  const fresh = index < 0;
  const dirty = fresh ? draft.new !== "" || draft.old !== rule.old : JSON.stringify(draft) !== JSON.stringify(rule);
  useUnsaved("rule", dirty && !save.isSuccess ? "the rule" : "");
  const ready = draft.old !== "" && (draft.status === 410 || draft.new !== "");
  const { tried, asked } = useTriedRule(draft);
  const counts = tried.data?.counts ?? {};
  const hides = counts.hides ?? 0;
  const [sure, setSure] = useState(false);
  useEffect(() => setSure(false), [asked]);
  const submit = () =>
    save.mutate(
      {
        text: `rule ${draft.old} ${draft.status === 410 ? "gone" : `to ${draft.new}`}`,
        decide: true,
        change: (plan) => {
          const rules = ((plan.route ??= {} as never).rules ??= []);
          if (fresh) rules.push(draft);
          else rules[index] = draft;
        },
      },
      { onSuccess: onDone },
    );
  return (
    <form
      className="form"
      aria-label="Rule"
      style={{ border: "1px solid var(--teal)", borderRadius: 7, margin: "0 12px 10px" }}
      onSubmit={(e) => {
        e.preventDefault();
        if (ready && (!hides || sure)) submit();
      }}
    >
      <div className="two">
        <TextField
          select
          label="A rule for"
          value={draft.match}
          sx={{ maxWidth: 190 }}
          onChange={(e) => setDraft({ ...draft, match: e.target.value as Rule["match"] })}
        >
          <MenuItem value="prefix">a folder and all in it</MenuItem>
          <MenuItem value="pattern">addresses of a pattern</MenuItem>
          <MenuItem value="exact">one address</MenuItem>
        </TextField>
        <TextField
          select
          label="Answer"
          value={String(draft.status)}
          sx={{ maxWidth: 190 }}
          onChange={(e) =>
            setDraft({
              ...draft,
              status: Number(e.target.value) as Rule["status"],
              new: e.target.value === "410" ? "" : draft.new,
            })
          }
        >
          <MenuItem value="301">301, moved for good</MenuItem>
          <MenuItem value="308">308, method kept</MenuItem>
          <MenuItem value="302">302, for now</MenuItem>
          <MenuItem value="307">307, for now, method kept</MenuItem>
          <MenuItem value="410">410, gone</MenuItem>
        </TextField>
      </div>
      <TextField
        label={draft.match === "pattern" ? "Old (RE2 pattern over path and query; brackets capture)" : "Old"}
        value={draft.old}
        onChange={(e) => setDraft({ ...draft, old: e.target.value })}
        slotProps={{ htmlInput: { className: "mono", spellCheck: false } }}
      />
      {draft.status !== 410 && (
        <TextField
          label={draft.match === "pattern" ? "New ({1} … {9} for what was captured)" : "New"}
          value={draft.new}
          onChange={(e) => setDraft({ ...draft, new: e.target.value })}
          slotProps={{ htmlInput: { className: "mono", spellCheck: false } }}
        />
      )}
      <Foreign host={foreign} />
      <Told error={tried.error} />
      {tried.data && (
        <div role="status" className="told" data-testid="rule-effect">
          settles <b>{count(counts.settles)}</b>
          {(counts.visits ?? 0) > 0 && ` (${many(counts.visits ?? 0, "visit")})`} · agrees with{" "}
          <b>{count(counts.agrees)}</b> · disagrees with <b>{count(counts.disagrees)}</b> · would wrongly catch{" "}
          <b style={hides ? { color: "var(--bad)" } : undefined}>{count(hides)}</b>
          {(counts.already ?? 0) > 0 && <> · {count(counts.already)} decided before rules are asked</>}
        </div>
      )}
      {hides > 0 && (
        <label className="check error" style={{ margin: 0 }}>
          <input type="checkbox" checked={sure} onChange={(e) => setSure(e.target.checked)} /> {count(hides)}{" "}
          {hides === 1 ? "address that stays or answers there" : "addresses that stay or answer there"} would be hidden
          by this rule. I want it all the same.
        </label>
      )}
      {(tried.data?.rows.length ?? 0) > 0 && (
        <div style={{ maxHeight: 210, overflow: "auto" }} tabIndex={0} role="region" aria-label="What the rule catches">
          <table className="plain">
            <tbody>
              {tried.data?.rows.slice(0, 200).map((row) => (
                <tr key={`${row.address} ${row.effect}`}>
                  <td className="mono">{row.key}</td>
                  <td className="mono">→ {row.to}</td>
                  <td style={row.effect === "hides" ? { color: "var(--bad)" } : undefined}>
                    {EFFECT[row.effect]}
                    {row.had && row.effect !== "agrees" && row.effect !== "settles" && (
                      <span className="mono soft"> {row.had}</span>
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
      <Told error={save.error} />
      <div className="acts">
        <Button
          type="submit"
          variant="contained"
          {...off(
            [!ready, "Something is still to be filled in."],
            [!dirty, "Nothing is changed."],
            [hides > 0 && !sure, "Say first that it may hide what it hides."],
            [save.isPending, BUSY],
            [tried.isError, "The pattern cannot be read."],
          )}
        >
          {fresh ? "Make this rule" : "Save"}
        </Button>
        <Button type="button" onClick={onDone}>
          Leave it
        </Button>
      </div>
    </form>
  );
}
