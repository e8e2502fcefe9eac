/** Deciding over many addresses at once: what, where to, why, and over how many. */
import { Button, Dialog, DialogActions, DialogContent, DialogTitle, TextField } from "@mui/material";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { count, many } from "../../shell/state";
import { Told } from "../../shores/Told";
import { AskForm } from "../route/AskForm";
import { useAct } from "./addressQueries";
import { BUSY, off } from "../../shell/off";

export type Act = Exclude<Schemas["Act"]["what"], "stay" | "accept" | "holder">;

export function ActDialog({
  what,
  number,
  wanted,
  onClose,
}: {
  what: Act;
  number: number;
  wanted: Omit<Schemas["Act"], "what" | "to" | "reason">;
  onClose: (done: boolean) => void;
}) {
  const [to, setTo] = useState("");
  const [reason, setReason] = useState("");
  const act = useAct();
  if (what === "ask")
    return (
      <Dialog open onClose={() => onClose(false)} aria-labelledby="act-title" fullWidth maxWidth="sm">
        <DialogTitle id="act-title">Ask the owner about {many(number, "address", "addresses")}</DialogTitle>
        <DialogContent>
          <AskForm
            many={number > 1}
            busy={act.isPending}
            onAsk={(reason, to) => act.mutate({ ...wanted, what, to, reason }, { onSuccess: () => onClose(true) })}
            onLeave={() => onClose(false)}
          />
          <Told error={act.error} />
        </DialogContent>
      </Dialog>
    );
  const run = () => act.mutate({ ...wanted, what, to, reason }, { onSuccess: () => onClose(true) });
  const title = { retire: "Retire", move: "Lead", aside: "Set aside" }[what];
  const ready = what === "retire" || (what === "move" ? to.trim() : reason.trim().length > 2);
  return (
    <Dialog open onClose={() => onClose(false)} aria-labelledby="act-title" fullWidth maxWidth="sm">
      <DialogTitle id="act-title">
        {title} {many(number, "address", "addresses")}
        {what === "move" ? " to one new address" : ""}
      </DialogTitle>
      <DialogContent>
        {what === "retire" && <p>They will answer 410, gone on purpose. A check has to prove it.</p>}
        {what === "move" && (
          <TextField
            autoFocus
            label="New address"
            placeholder="/new/place"
            value={to}
            onChange={(e) => setTo(e.target.value)}
            onKeyDown={(e) => e.key === "Enter" && ready && run()}
            sx={{ mt: 1 }}
          />
        )}
        {what !== "aside" && (
          <TextField
            label="Why (it stands beside them in lists and in the plan)"
            value={reason}
            onChange={(e) => setReason(e.target.value)}
            onKeyDown={(e) => e.key === "Enter" && ready && run()}
            sx={{ mt: 1 }}
          />
        )}
        {what === "aside" && (
          <TextField
            autoFocus
            label="Why they are left out"
            value={reason}
            onChange={(e) => setReason(e.target.value)}
            onKeyDown={(e) => e.key === "Enter" && ready && run()}
            sx={{ mt: 1 }}
          />
        )}
        <p className="soft">Only addresses in the account are decided. One change; Z takes it back.</p>
        <Told error={act.error} />
      </DialogContent>
      <DialogActions>
        <Button onClick={() => onClose(false)}>Leave it</Button>
        <Button
          variant="contained"
          autoFocus={what === "retire"}
          {...off([!ready, "Something is still to be filled in."], [act.isPending, BUSY])}
          onClick={run}
        >
          {title} {count(number)}
        </Button>
      </DialogActions>
    </Dialog>
  );
}
