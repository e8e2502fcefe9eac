/** Deciding over all open addresses of a shape at once, at whatever height of the tree. */
import { Button, TextField } from "@mui/material";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useKeys } from "../../shell/keys";
import { BUSY, off } from "../../shell/off";
import { count, many, useLink } from "../../shell/state";
import { allSaved, useUnsaved } from "../../shell/unsaved";
import { Addr } from "../../shores/Addr";
import { Told } from "../../shores/Told";
import { AskForm } from "./AskForm";
import { useShapeAct, type Rule, type ShapeGroup } from "./queries";
import { Foreign, useForeign } from "./Foreign";
import { RuleForm } from "./RuleForm";

export function ShapeDecision({ of }: { of: ShapeGroup }) {
  const link = useLink();
  const act = useShapeAct();
  const [to, setTo] = useState("");
  const foreign = useForeign(to);
  const [reason, setReason] = useState("");
  const [rule, setRule] = useState<Rule | null>(null);
  useUnsaved("shape", to ? `what is to become of ${of.shape}` : "", "shape");
  const [asking, setAsking] = useState(false);
  const settle = (what: Schemas["ShapeAct"]["what"], leads = what === "move" ? to.trim() : "", words = reason.trim()) =>
    act.mutate(
      { shape: of.shape, what, to: leads, reason: words },
      {
        onSuccess: () => {
          allSaved();
          link.set({ shape: null, at: null }, true);
        },
      },
    );
  const fresh = (): Rule => ({ old: of.pattern, new: "", match: "pattern", status: 301, reason });
  useKeys([
    { key: "a", says: "all of this shape stay", run: () => settle("stay") },
    { key: "d", says: "retire all of this shape (410)", run: () => settle("retire") },
    { key: "q", says: "ask the owner about this shape", run: () => setAsking(true) },
    { key: "h", says: "lead these files to the pages that hold them", run: () => of.files && settle("holder") },
    { key: "n", says: "one rule for this shape", run: () => setRule(fresh()) },
  ]);
  const none: [boolean, string] = [!of.unaccounted, "Nothing of it is unaccounted."];
  return (
    <>
      <h2 style={{ display: "block" }}>
        <Addr of={of.shape} whole />
      </h2>
      <div className="scroll" style={{ display: "flex", flexDirection: "column" }}>
        <dl className="facts">
          <dt>Unaccounted</dt>
          <dd>{count(of.unaccounted)}</dd>
          {of.folded && (
            <>
              <dt>Folders</dt>
              <dd>
                {count(of.folders)} <span className="soft">with open addresses of this shape</span>
              </dd>
            </>
          )}
          <dt>Weight</dt>
          <dd>{many(of.visits, "visit")}</dd>
        </dl>
        <div className="form">
          <div className="acts">
            <Button variant="outlined" onClick={() => settle("stay")} {...off(none, [act.isPending, BUSY])}>
              All {count(of.unaccounted)} stay <kbd style={{ marginLeft: 5 }}>A</kbd>
            </Button>
            <Button variant="outlined" onClick={() => settle("retire")} {...off(none, [act.isPending, BUSY])}>
              Retire all (410) <kbd style={{ marginLeft: 5 }}>D</kbd>
            </Button>
            {of.files && (
              <Button variant="outlined" onClick={() => settle("holder")} {...off(none, [act.isPending, BUSY])}>
                To the pages that hold them <kbd style={{ marginLeft: 5 }}>H</kbd>
              </Button>
            )}
            <Button variant="outlined" onClick={() => setAsking(true)} {...off(none)}>
              Ask the owner <kbd style={{ marginLeft: 5 }}>Q</kbd>
            </Button>
            <Button variant="outlined" onClick={() => setRule(fresh())}>
              One rule <kbd style={{ marginLeft: 5 }}>N</kbd>
            </Button>
          </div>
          <div className="two">
            <TextField
              label="One new address for all of them"
              placeholder="/new/place"
              value={to}
              onChange={(e) => setTo(e.target.value)}
              slotProps={{ htmlInput: { className: "mono", spellCheck: false } }}
            />
            <Button
              variant="outlined"
              onClick={() => settle("move")}
              {...off(none, [!to.trim(), "Write the new address first."], [act.isPending, BUSY])}
            >
              {foreign ? "Yes, lead all there" : "Lead all there"}
            </Button>
          </div>
          <Foreign host={foreign} />
          <div className="two">
            <TextField
              label="Why (of what is decided here)"
              value={reason}
              onChange={(e) => setReason(e.target.value)}
            />
            <Button
              variant="outlined"
              onClick={() => settle("aside")}
              {...off(
                none,
                [reason.trim().length < 3, "Give a reason, of three letters or more."],
                [act.isPending, BUSY],
              )}
            >
              Set all aside
            </Button>
          </div>
        </div>
        {asking && (
          <AskForm
            many
            busy={act.isPending}
            onAsk={(asked, until) => settle("ask", until, asked)}
            onLeave={() => setAsking(false)}
          />
        )}
        <div className="pad">
          <Told error={act.error} />
        </div>
        {rule && <RuleForm key={rule.old} rule={rule} index={-1} onDone={() => setRule(null)} />}
      </div>
    </>
  );
}
