/** Deciding over one open address, or over all of its shape by a rule. */
import { Button, TextField } from "@mui/material";
import type { Schemas } from "../../api/client";
import { Go } from "../../shell/Go";
import { many } from "../../shell/state";
import { Addr } from "../../shores/Addr";
import { FateMark } from "../../shores/Fate";
import { Told } from "../../shores/Told";
import { Captured } from "./OpenParts";
import type { Rule } from "./queries";
import { RuleForm } from "./RuleForm";

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
}

export function Decision(props: Props) {
  const { at, to, onTo, reason, onReason, rule, onRule, busy, error, onDecide, onAside } = props;
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
            <FateMark fate={at.fate} proven={at.proven} word /> {at.why && <span>: {at.why}</span>}
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
            if (to.trim()) onDecide(301, to.trim());
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
            <Button type="submit" variant="contained" disabled={!to.trim() || busy}>
              Lead there
            </Button>
          </div>
          <div className="acts">
            <Button variant="outlined" onClick={() => onDecide(301, at.key)} disabled={busy}>
              It stays <kbd style={{ marginLeft: 5 }}>A</kbd>
            </Button>
            <Button variant="outlined" onClick={() => onDecide(410, "")} disabled={busy}>
              Retire (410) <kbd style={{ marginLeft: 5 }}>D</kbd>
            </Button>
            <Button variant="outlined" onClick={() => onRule(shapeRule(at))}>
              Rule for {at.shape.length > 22 ? "its shape" : at.shape} <kbd style={{ marginLeft: 5 }}>N</kbd>
            </Button>
          </div>
          <div className="two">
            <TextField label="Why it is left out" value={reason} onChange={(e) => onReason(e.target.value)} />
            <Button variant="outlined" onClick={onAside} disabled={reason.trim().length < 3 || busy}>
              Set aside
            </Button>
          </div>
        </form>
        <div className="pad">
          <Told error={error} />
        </div>
        {!rule && <Captured address={at.id} />}
        {rule && <RuleForm key={rule.old} rule={rule} index={-1} onDone={() => onRule(null)} />}
      </div>
    </>
  );
}
