/** The try-box: what the map answers to one old address. */
import { Button, TextField } from "@mui/material";
import { useState } from "react";
import { Told } from "../../shores/Told";
import { useAsk } from "./queries";
import { off } from "../../shell/off";

export function TryBox() {
  const [text, setText] = useState("");
  const ask = useAsk();
  const a = ask.data;
  return (
    <form
      className="form"
      aria-label="Try an address"
      onSubmit={(e) => {
        e.preventDefault();
        if (text.trim()) ask.mutate(text);
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
        <Button type="submit" variant="outlined" {...off([!text.trim(), "Nothing is written there yet."])}>
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
