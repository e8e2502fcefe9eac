/** A question to the owner of the old site, and where the addresses lead until it is answered. */
import { Button, TextField } from "@mui/material";
import { useState } from "react";
import { BUSY, off } from "../../shell/off";
import { useUnsaved } from "../../shell/unsaved";

/** Until the answer: where the page above goes, one new address, or nowhere. */
const UNTIL = [
  ["parent", "the page above it"],
  ["there", "a new address"],
  ["", "nowhere"],
] as const;

export function AskForm({
  many,
  busy,
  onAsk,
  onLeave,
}: {
  many?: boolean;
  busy: boolean;
  onAsk: (asked: string, until: string) => void;
  onLeave: () => void;
}) {
  const [asked, setAsked] = useState("");
  const [until, setUntil] = useState<(typeof UNTIL)[number][0]>("parent");
  const [to, setTo] = useState("");
  useUnsaved("question", asked ? "a question to the owner" : "");
  return (
    <form
      className="form"
      aria-label="Ask the owner"
      onSubmit={(e) => {
        e.preventDefault();
        onAsk(asked.trim(), until === "there" ? to.trim() : until);
      }}
    >
      <TextField
        autoFocus
        multiline
        label="What the owner is to tell"
        placeholder={many ? "Are these still needed?" : "Is this page still needed?"}
        value={asked}
        onChange={(e) => setAsked(e.target.value)}
      />
      <div className="acts" role="radiogroup" aria-label="Until then">
        <span className="soft">Until then (302) to</span>
        {UNTIL.map(([value, label]) => (
          <label key={value} className="nowrap">
            <input type="radio" name="until" checked={until === value} onChange={() => setUntil(value)} /> {label}
          </label>
        ))}
      </div>
      {until === "there" && (
        <TextField
          label="Where it leads for now"
          placeholder="/new/place"
          value={to}
          onChange={(e) => setTo(e.target.value)}
          slotProps={{ htmlInput: { className: "mono", spellCheck: false } }}
        />
      )}
      <div className="acts">
        <Button
          type="submit"
          variant="contained"
          {...off(
            [asked.trim().length < 3, "Write the question first."],
            [until === "there" && !to.trim(), "Write where it leads for now."],
            [busy, BUSY],
          )}
        >
          Ask the owner
        </Button>
        <Button onClick={onLeave}>Leave it</Button>
      </div>
    </form>
  );
}
