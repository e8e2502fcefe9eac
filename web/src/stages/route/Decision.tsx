/** Deciding over one open address, or over all of its shape by a rule. */
import { Button, TextField } from "@mui/material";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { Go } from "../../shell/Go";
import { many } from "../../shell/state";
import { Addr } from "../../shores/Addr";
import { FateMark } from "../../shores/Fate";
import { Told } from "../../shores/Told";
import { AskForm } from "./AskForm";
import { Foreign, useForeign } from "./Foreign";
import { Likely } from "./Likely";
import { Captured } from "./OpenParts";
import { useOver, type Rule } from "./queries";
import { RuleForm } from "./RuleForm";
import { OVER } from "./Settle";
import { BUSY, off } from "../../shell/off";

/** An open address, and the pattern of its shape. */
export type OpenRow = Schemas["OpenRow"] & { pattern: string };

/** A rule for the whole shape of an address; where it leads is still to be written. */
export const shapeRule = (row: OpenRow): Rule => ({
  old: row.pattern,
  new: "",
  match: "pattern",
  status: 301,
  reason: "",
});

interface Props {
  at: OpenRow;
  to: string;
  onTo: (to: string) => void;
  reason: string;
  onReason: (reason: string) => void;
  rule: Rule | null;
  onRule: (rule: Rule | null) => void;
  busy: boolean;
  error: unknown;
  onDecide: (status: 301 | 410, target: string) => void;
  onAside: () => void;
  asking: boolean;
  onAsking: (asking: boolean) => void;
  onAsk: (asked: string, until: string) => void;
}

export function Decision(props: Props) {
  const { at, to, onTo, reason, onReason, rule, onRule, busy, error, onDecide, onAside, asking, onAsking, onAsk } =
    props;
  const [right, setRight] = useState("");
  const over = useOver();
  const foreign = useForeign(to);
  return (
    <>
      <h2 style={{ display: "block" }}>
        <span style={{ overflowWrap: "anywhere" }}>
          <Addr of={at.key} whole />
        </span>
      </h2>
      <div className="scroll" style={{ display: "flex", flexDirection: "column" }}>
        <dl className="facts">
          <dt>Title</dt>
          <dd>{at.title || <span className="soft">none</span>}</dd>
          <dt>Fate</dt>
          <dd>
            <FateMark fate={at.fate} proven={at.proven} word />
            {at.why && <span>: {at.why}</span>}
          </dd>
          {at.decision && (
            <>
              <dt>Decided</dt>
              <dd>
                {at.decision} <Addr of={at.decision_target} />
              </dd>
            </>
          )}
          <dt>Weight</dt>
          <dd>
            {many(at.visits, "visit")}, {many(at.in_links, "link")} in · <Go to={`survey?open=${at.id}`}>look at it</Go>
          </dd>
        </dl>
        <form
          className="form"
          onSubmit={(e) => {
            e.preventDefault();
            if (to.trim() && !foreign) onDecide(301, to.trim());
          }}
        >
          <div className="two">
            <TextField
              id="new-place"
              label="Its new address"
              placeholder="/new/place"
              value={to}
              onChange={(e) => onTo(e.target.value)}
              slotProps={{ htmlInput: { className: "mono", spellCheck: false } }}
            />
            <Button
              type={foreign ? "button" : "submit"}
              variant="contained"
              onClick={foreign ? () => onDecide(301, to.trim()) : undefined}
              {...off([!to.trim(), "Write the new address first."], [busy, BUSY])}
            >
              {foreign ? "Yes, lead there" : "Lead there"}
            </Button>
          </div>
          <Foreign host={foreign} />
          <Likely of={at.key} onChoose={onTo} />
          <div className="acts">
            <Button variant="outlined" onClick={() => onDecide(301, at.key)} {...off([busy, BUSY])}>
              It stays <kbd style={{ marginLeft: 5 }}>A</kbd>
            </Button>
            <Button variant="outlined" onClick={() => onDecide(410, "")} {...off([busy, BUSY])}>
              Retire (410) <kbd style={{ marginLeft: 5 }}>D</kbd>
            </Button>
            <Button variant="outlined" onClick={() => onAsking(true)}>
              Ask the owner <kbd style={{ marginLeft: 5 }}>Q</kbd>
            </Button>
            <Button variant="outlined" onClick={() => onRule(shapeRule(at))}>
              Rule for {at.shape.length > 22 ? "its shape" : at.shape} <kbd style={{ marginLeft: 5 }}>N</kbd>
            </Button>
          </div>
          <div className="two">
            <TextField
              label="Why (of what is decided here)"
              value={reason}
              onChange={(e) => onReason(e.target.value)}
            />
            <Button
              variant="outlined"
              onClick={onAside}
              {...off([reason.trim().length < 3, "Give a reason, of three letters or more."], [busy, BUSY])}
            >
              Set aside
            </Button>
          </div>
          {(at.verdict === "doubtful" || at.verdict === "wrong page") && (
            <div className="two">
              <TextField label="Why it is the right page" value={right} onChange={(e) => setRight(e.target.value)} />
              <Button
                variant="outlined"
                onClick={() => over.mutate({ ...OVER, what: "accept", ids: [at.id], reason: right, filters: {} })}
                {...off(
                  [right.trim().length < 3, "Give a reason, of three letters or more."],
                  [busy, BUSY],
                  [over.isPending, BUSY],
                )}
              >
                Its page is right
              </Button>
            </div>
          )}
        </form>
        {asking && <AskForm key={at.id} busy={busy} onAsk={onAsk} onLeave={() => onAsking(false)} />}
        <div className="pad">
          <Told error={error ?? over.error} />
        </div>
        {!rule && <Captured address={at.id} />}
        {rule && <RuleForm key={rule.old} rule={rule} index={-1} onDone={() => onRule(null)} />}
      </div>
    </>
  );
}
