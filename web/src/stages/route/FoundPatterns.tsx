/** What is found behind what is decided and likely: rules, and tables of what no rule can say. */
import { Button } from "@mui/material";
import type { ReactNode } from "react";
import { BUSY, off } from "../../shell/off";
import { count, many } from "../../shell/state";
import { Addr } from "../../shores/Addr";
import { Told } from "../../shores/Told";
import { sure } from "./Likely";
import { useSuggestedRules, useSuggestedTables, useTakeRule, useTakeSuggested } from "./queries";

const LISTED = 40; // addresses of a pattern that are shown

/** Addresses that a rule does something to, listed when asked for; nothing where there are none. */
function Listed({ of, odd, children }: { of: string[]; odd?: boolean; children: ReactNode }) {
  if (!of.length) return null;
  return (
    <details>
      <summary className={odd ? "state odd" : undefined}>{children}</summary>
      {of.slice(0, LISTED).map((key) => (
        <div key={key}>
          <Addr of={key} />
        </div>
      ))}
      {of.length > LISTED && <div className="soft">… and more</div>}
    </details>
  );
}

/** Rules behind what is decided and what is likely: each with what it does, and taken by one press. */
export function FoundPatterns() {
  const rules = useSuggestedRules();
  const tables = useSuggestedTables();
  const taking = useTakeSuggested();
  const save = useTakeRule();
  const rows = rules.data ?? [];
  return (
    <>
      <h2>
        Found patterns <small>in the order in which they have to stand</small>
      </h2>
      <Told error={rules.error ?? tables.error ?? save.error ?? taking.error} />
      <div className="scroll" tabIndex={0} role="region" aria-label="Found patterns">
        {rows.map((rule) => (
          <article key={rule.old} className="found">
            <div className="mono">{rule.old}</div>
            <div className="mono">→ {rule.new}</div>
            <div>
              <Listed of={rule.settled}>
                settles {count(rule.settles)}
                {rule.visits > 0 && `, ${many(rule.visits, "visit")}`}
              </Listed>
              <Listed of={rule.disagrees}>
                disagrees with {many(rule.disagrees.length, "address", "addresses")}: what they have likely become gets
                a line before it
              </Listed>
              <Listed of={rule.catches} odd>
                would wrongly catch {count(rule.catches.length)}
              </Listed>
            </div>
            <Button variant="outlined" onClick={() => save.mutate(rule.old)} {...off([save.isPending, BUSY])}>
              Take this rule
            </Button>
          </article>
        ))}
        {(tables.data ?? []).map((table) => (
          <article key={table.old} className="found">
            <div className="mono">{table.old}</div>
            <div className="mono">
              → {table.new}
              <i>the name of its page</i>
            </div>
            <div>
              <Listed of={table.pairs}>
                a table of {count(table.settles)}, each at least {sure(table.least)}
                {table.visits > 0 && `, ${many(table.visits, "visit")}`}
              </Listed>
              <Listed of={table.left}>leaves {count(table.leaves)} of this shape, which go elsewhere or nowhere</Listed>
            </div>
            <Button
              variant="outlined"
              onClick={() => taking.mutate({ ids: table.ids, at_least: 0.5 })}
              {...off([taking.isPending, BUSY])}
            >
              Take as {many(table.ids.length, "single line")}
            </Button>
          </article>
        ))}
        {save.data && (
          <p className="told" role="status">
            {save.data.text}. Z takes it back.
          </p>
        )}
        {taking.data && (
          <p className="told" role="status">
            {many(taking.data.taken, "pair")} taken as suggested. Z takes {taking.data.taken === 1 ? "it" : "them"}{" "}
            back.
          </p>
        )}
        {rules.data && tables.data && !rows.length && !tables.data.length && (
          <div className="empty">No pattern is found behind what is decided or likely.</div>
        )}
      </div>
    </>
  );
}
