/** What a round leaves to a person: whether landing pages are right, and whether addresses stay. */
import { Button, TextField } from "@mui/material";
import { useState } from "react";
import { many } from "../../shell/state";
import { Told } from "../../shores/Told";
import { useOver } from "./queries";
import { BUSY, off } from "../../shell/off";

/** Nothing chosen yet. */
export const OVER = { ids: [], search: "", below: "", without: [], to: "" };

/** Accepting all landing pages of one verdict; one alone is settled beside its address. */
export function Settle({ verdict }: { verdict: string }) {
  const [reason, setReason] = useState("");
  const over = useOver();
  return (
    <form
      className="form"
      aria-label="Settle"
      onSubmit={(e) => {
        e.preventDefault();
        over.mutate({ ...OVER, what: "accept", reason, filters: { verdict: [verdict], proof: ["planned"] } });
      }}
    >
      <div className="two">
        <TextField label="Why these are the right pages" value={reason} onChange={(e) => setReason(e.target.value)} />
        <Button
          type="submit"
          variant="outlined"
          {...off([reason.trim().length < 3, "Give a reason, of three letters or more."], [over.isPending, BUSY])}
        >
          All of them are right
        </Button>
      </div>
      <Told error={over.error} />
      {over.data && <p role="status">{over.data.text}. Z takes it back.</p>}
    </form>
  );
}

/** Undecided addresses that answer with the same page: they can stay, in one act. */
export function Stays({ number }: { number: number }) {
  const over = useOver();
  return (
    <div className="warn good">
      {many(number, "undecided address", "undecided addresses")} {number === 1 ? "answers" : "answer"} there with the
      same content: {number === 1 ? "it needs" : "they need"} no rule.{" "}
      <Button
        variant="outlined"
        {...off([over.isPending, BUSY])}
        onClick={() =>
          over.mutate({ ...OVER, what: "stay", reason: "", filters: { verdict: ["same"], decision: [""] } })
        }
      >
        {number === 1 ? "It stays" : "They stay"}
      </Button>
      <Told error={over.error} />
    </div>
  );
}
