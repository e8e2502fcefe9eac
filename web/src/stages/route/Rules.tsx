/** Rules with their states (written, handed over, seen working), what is set aside, and the try-box. */
import { Button, TextField } from "@mui/material";
import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { client, take } from "../../api/client";
import { useKeys } from "../../shell/keys";
import { count, useChangePlan, useCrossingId, usePlan, when } from "../../shell/state";
import { Empty, Told } from "../../shores/Told";
import { RuleForm, type Rule } from "./RuleForm";

const FRESH: Rule = { old: "", new: "", match: "prefix", status: 301, reason: "" };

export function TryBox() {
  const id = useCrossingId();
  const [text, setText] = useState("");
  const ask = useMutation({
    mutationFn: () =>
      take(
        client.POST("/api/crossings/{crossing}/ask", { params: { path: { crossing: id } }, body: { address: text } }),
      ),
  });
  const a = ask.data;
  return (
    <form
      className="form"
      aria-label="Try an address"
      onSubmit={(e) => {
        e.preventDefault();
        if (text.trim()) ask.mutate();
      }}
    >
      <div className="two">
        <TextField
          label="Try an old address"
          placeholder="paste it as it is"
          value={text}
          onChange={(e) => setText(e.target.value)}
          slotProps={{ htmlInput: { className: "mono", spellCheck: false } }}
        />
        <Button type="submit" variant="outlined" disabled={!text.trim()}>
          Try
        </Button>
      </div>
      <Told error={ask.error} />
      {a && (
        <div className="told" role="status">
          <span className="mono">{a.request}</span>{" "}
          {a.status ? (
            <>
              → <b>{a.status}</b> <span className="mono">{a.location || "gone"}</span>{" "}
              <span className="soft">
                by the {a.match === "exact" ? "line" : a.match}{" "}
                {a.match !== "exact" && <span className="mono">{a.line}</span>}
              </span>
            </>
          ) : (
            "the map says nothing; the new site answers by itself."
          )}
        </div>
      )}
    </form>
  );
}

export function Rules() {
  const id = useCrossingId();
  const plan = usePlan();
  const save = useChangePlan();
  const rules = useQuery({
    queryKey: ["rules", id],
    queryFn: () => take(client.GET("/api/crossings/{crossing}/rules", { params: { path: { crossing: id } } })),
  });
  const [edit, setEdit] = useState<number | null>(null);
  const known = plan.data?.plan.route?.rules ?? [];
  const aside = plan.data?.plan.route?.aside ?? [];
  const [pattern, setPattern] = useState("");
  const [reason, setReason] = useState("");
  useKeys([{ key: "n", says: "new rule", run: () => setEdit(-1) }]);
  return (
    <div className="shores">
      <section className="panel" style={{ flex: 1.7 }} aria-label="Rules">
        <h2>
          Rules <small>patterns first, in this order; then the longest folder</small>
          <span className="sp" />
          <button className="linkish" onClick={() => setEdit(-1)}>
            + rule
          </button>
        </h2>
        <Told error={rules.error ?? save.error ?? plan.error} />
        <div className="scroll" tabIndex={0} role="region" aria-label="Rules">
          {edit === -1 && <RuleForm rule={FRESH} index={-1} onDone={() => setEdit(null)} />}
          <table className="plain">
            <thead>
              <tr>
                <th />
                <th>old</th>
                <th>new</th>
                <th className="n">expected</th>
                <th className="n">seen</th>
                <th>state</th>
                <th />
              </tr>
            </thead>
            <tbody>
              {(rules.data ?? []).map((rule, n) => (
                <tr key={rule.number}>
                  <td className="soft n">{rule.number}</td>
                  <td className="mono">
                    {rule.old}{" "}
                    <span className="soft" style={{ fontFamily: "Barlow" }}>
                      {rule.match === "prefix" ? "and all in it" : rule.match === "exact" ? "" : "pattern"}
                    </span>
                  </td>
                  <td className="mono">{rule.status === 410 ? "gone (410)" : rule.new}</td>
                  <td className="n">{count(rule.expected)}</td>
                  <td className="n">{count(rule.measured)}</td>
                  <td>
                    <span
                      className={`pill${rule.state === "seen working" ? " good" : ""}`}
                      title={rule.handed_at ? `handed over for ${rule.server}, ${when(rule.handed_at)}` : undefined}
                    >
                      {rule.state}
                    </span>
                    {rule.state !== "seen working" && <div className="soft">not seen yet</div>}
                    {rule.others.length > 0 && rule.measured > 0 && (
                      <details>
                        <summary>{count(rule.expected - rule.measured)} answered otherwise</summary>
                        {rule.others.slice(0, 12).map((o) => (
                          <div key={o.key} className="soft">
                            <span className="mono">{o.key}</span> {o.answer}
                          </div>
                        ))}
                      </details>
                    )}
                  </td>
                  <td className="n">
                    <button className="linkish" onClick={() => setEdit(n)}>
                      edit
                    </button>{" "}
                    <button
                      className="linkish"
                      onClick={() =>
                        save.mutate({
                          text: `rule ${rule.old} removed`,
                          decide: true,
                          change: (p) => void p.route?.rules?.splice(n, 1),
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
          {edit !== null && edit >= 0 && known[edit] && (
            <RuleForm key={edit} rule={known[edit] as Rule} index={edit} onDone={() => setEdit(null)} />
          )}
          {rules.data?.length === 0 && edit === null && (
            <Empty title="There is no rule yet." action="Write a rule" onAction={() => setEdit(-1)}>
              One rule can settle a whole folder. What it would catch is shown before it is saved.
            </Empty>
          )}
        </div>
      </section>
      <div style={{ flex: 1, display: "flex", flexDirection: "column", gap: 10, minWidth: 0 }}>
        <section className="panel" aria-label="Try-box">
          <h2>
            Try-box <small>what the map answers</small>
          </h2>
          <TryBox />
        </section>
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
                disabled={!pattern || reason.trim().length < 3 || save.isPending}
              >
                Set aside
              </Button>
            </div>
          </form>
        </section>
      </div>
    </div>
  );
}
