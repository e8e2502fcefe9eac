/** Rounds: the falling number drawn, each round against the one before, and what each address answered. */
import { Button } from "@mui/material";
import { useMemo } from "react";
import type { Schemas } from "../../api/client";
import { BUSY, off, RUNS } from "../../shell/off";
import { count, useChangePlan, useLink, usePlan, useStart, when } from "../../shell/state";
import { useLive } from "../../shores/Run";
import { LongList, type Column } from "../../shores/LongList";
import { Told } from "../../shores/Told";
import { Addr } from "../../shores/Addr";
import { useRounds, useTurns, useVerdicts, type Verdict } from "./queries";
import { RoundChart } from "./RoundChart";
import { Settle, Stays } from "./Settle";

const COLUMNS: Column<Verdict>[] = [
  {
    id: "key",
    label: "old address",
    width: 180,
    grow: true,
    look: "mono",
    cell: (r) => <Addr of={r.key} />,
  },
  { id: "verdict", label: "verdict", width: 92, look: "b", cell: (r) => r.verdict },
  { id: "status", label: "answer", width: 64, look: "num", cell: (r) => r.status || "–" },
  { id: "hops", label: "way", width: 84, cell: (r) => r.hops.map(([status]) => status).join(" → ") },
  {
    id: "seen",
    label: "what it says",
    width: 220,
    grow: true,
    cell: (r) => <span title={r.seen}>{r.accepted ? `accepted: ${r.accepted}` : r.seen}</span>,
  },
  {
    id: "final",
    label: "ends at",
    width: 150,
    grow: true,
    look: "mono",
    cell: (r) => <Addr of={r.final.replace(/^https?:\/\/[^/]+/, "")} />,
  },
];

type Turn = Schemas["TurnRow"] & { id: number };

const TURNS: Column<Turn>[] = [
  { id: "key", label: "old address", width: 220, grow: true, look: "mono", cell: (r) => <Addr of={r.key} /> },
  { id: "what", label: "became", width: 96, look: "b", cell: (r) => r.what },
  { id: "before", label: "then", width: 110, cell: (r) => r.before },
  { id: "now", label: "now", width: 110, cell: (r) => r.now },
  { id: "by", label: "decided by", width: 110, cell: (r) => r.by },
];

/** The host where the new site will live: asked as well, and counting from then on. */
function FinalHost({ asked }: { asked: string[] }) {
  const plan = usePlan().data?.plan;
  const start = useStart();
  const save = useChangePlan();
  const live = useLive(["route", "check"]);
  const final = (plan?.final ?? "").replace(/\/$/, "");
  if (!final || final === (plan?.interim ?? "").replace(/\/$/, "")) return null;
  return (
    <>
      <div className="acts">
        <Button
          variant="outlined"
          onClick={() => start.mutate({ kind: "check", against: final })}
          {...off([!!live, RUNS], [start.isPending, BUSY])}
          title="A round on the final host, to be held against the others. Fates stay as the interim host proved them."
        >
          Ask the final host
        </Button>
        {asked.includes(final) && (
          <Button
            variant="outlined"
            onClick={() =>
              save.mutate({ text: `checks go to ${final} from now on`, change: (p) => void (p.interim = p.final) })
            }
            {...off([!!live, RUNS], [save.isPending, BUSY])}
            title="After the switch: from now on what this host answers proves the fates"
          >
            It counts from now on
          </Button>
        )}
      </div>
      <div className="soft mono">{final}</div>
      <Told error={start.error ?? save.error} />
    </>
  );
}

/** Two rounds against each other. */
function Against({ round, before }: { round: number; before: number }) {
  const link = useLink();
  const what = link.get("became");
  const { view, load, counts } = useTurns(round, before, what);
  return (
    <>
      <div className="filters">
        {Object.entries(counts).map(([name, n]) => (
          <button
            key={name}
            className={`chip${what === name ? " on" : ""}`}
            aria-pressed={what === name}
            onClick={() => link.set({ became: what === name ? null : name })}
          >
            {name} {count(n)}
          </button>
        ))}
      </div>
      <LongList<Turn>
        name="turns"
        label="Two rounds against each other"
        columns={TURNS}
        view={view}
        load={load}
        onOpen={(r) => link.set({ tab: "open", at: r.id })}
        empty={<div className="empty">No address of both rounds became this.</div>}
      />
    </>
  );
}

export function Rounds() {
  const link = useLink();
  const rounds = useRounds();
  const list = useMemo(() => rounds.data ?? [], [rounds.data]);
  const chosen = list.find((r) => r.id === Number(link.get("round"))) ?? list[list.length - 1];
  const verdict = link.get("answered");
  const round = chosen?.id ?? 0;
  const { view, load } = useVerdicts(round, verdict);
  const before = list.find((r) => r.id === Number(link.get("before")) && r.id !== round)?.id ?? 0;
  const last = chosen !== undefined && chosen === list[list.length - 1];
  if (!list.length)
    return (
      <section className="panel">
        <Told error={rounds.error} />
        <div className="empty">
          <b>No round yet.</b>A round asks the new host for every old address and judges the answer. Land first, then
          check.
        </div>
      </section>
    );
  return (
    <div className="shores">
      <section className="panel" style={{ flex: "0 0 360px" }} aria-label="Rounds">
        <h2>
          Rounds <small>open addresses after each</small>
        </h2>
        <div className="pad">
          <RoundChart rounds={list} width={330} />
          <FinalHost asked={list.map((r) => r.base)} />
        </div>
        <div className="scroll pad" tabIndex={0} role="region" aria-label="All rounds">
          {[...list].reverse().map((r) => {
            const fixed = Object.values(r.fixed_by).reduce((a, b) => a + b, 0);
            return (
              <button
                key={r.id}
                className={`card${r.id === chosen?.id ? " on" : ""}`}
                onClick={() => link.set({ round: r.id, answered: null })}
                aria-pressed={r.id === chosen?.id}
              >
                <span className="top">
                  <b>{r.before === null ? count(r.open) : `${count(r.before)} → ${count(r.open)}`} open</b>
                  <em>{r.ended ? when(r.ended) : "not ended"}</em>
                </span>
                {r.before !== null && (
                  <div>
                    {count(fixed)} fixed
                    {fixed > 0 &&
                      ` (${Object.entries(r.fixed_by)
                        .map(([by, n]) => `${count(n)} by ${by}`)
                        .join(", ")})`}
                    , {count(r.broke)} newly broken
                  </div>
                )}
                {r.open === 0 && r.ended && (
                  <div style={{ color: "var(--good)" }}>{count(r.checked)} checked, 0 left</div>
                )}
                {r.taken_over > 0 && (
                  <div className="soft">
                    {count(r.checked - r.taken_over)} asked again, {count(r.taken_over)} proven before
                  </div>
                )}
                <div className="soft mono">{r.base}</div>
              </button>
            );
          })}
        </div>
      </section>
      <section className="panel" style={{ flex: 1 }} aria-label="Answers of this round">
        {list.length > 1 && (
          <div className="filters">
            <label>
              held against{" "}
              <select
                value={before}
                onChange={(e) => link.set({ before: Number(e.target.value) || null, became: null })}
                aria-label="held against"
              >
                <option value={0}>nothing: what it found</option>
                {[...list].reverse().map(
                  (r) =>
                    r.id !== round && (
                      <option key={r.id} value={r.id}>
                        {when(r.ended || r.started)}, {count(r.open)} open, {r.base}
                      </option>
                    ),
                )}
              </select>
            </label>
          </div>
        )}
        {before > 0 && <Against key={`${round} ${before}`} round={round} before={before} />}
        {before === 0 && (
          <>
            <div className="filters">
              <button className={`chip${verdict ? "" : " on"}`} onClick={() => link.set({ answered: null })}>
                all {count(chosen?.checked)}
              </button>
              {Object.entries(chosen?.counts ?? {}).map(([name, n]) => (
                <button
                  key={name}
                  className={`chip${verdict === name ? " on" : ""}`}
                  aria-pressed={verdict === name}
                  onClick={() => link.set({ answered: verdict === name ? null : name })}
                >
                  {name} {count(n)}
                </button>
              ))}
            </div>
            {(chosen?.broken.length ?? 0) > 0 && (
              <div className="warn">
                Newly broken:{" "}
                {chosen?.broken
                  .slice(0, 5)
                  .map((b) => `${b.key} (${b.answer})`)
                  .join("; ")}
                {(chosen?.broke ?? 0) > 5 && `; and ${count((chosen?.broke ?? 0) - 5)} more`}
              </div>
            )}
            {last && (verdict === "doubtful" || verdict === "wrong page") && <Settle key={verdict} verdict={verdict} />}
            {last && chosen.stays > 0 && (!verdict || verdict === "same") && <Stays number={chosen.stays} />}
            <LongList<Verdict>
              name="verdicts"
              label="Answers"
              columns={COLUMNS}
              view={view}
              load={load}
              onOpen={(r) => link.set({ tab: "open", at: r.id })}
            />
          </>
        )}
      </section>
    </div>
  );
}
