/** The value of one field of one page: as it was found, or as somebody set it by hand; set here, and taken back. */
import { Button, TextField } from "@mui/material";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useUnsaved } from "../../shell/unsaved";
import { Told } from "../../shores/Told";
import { shown } from "./field";
import { History } from "./History";
import { useHandValue } from "./queries";
import { BUSY, off } from "../../shell/off";

type Value = Schemas["FieldRow"];
const BY_TEXT = ["line", "passage", "number", "date", "choice", "list", "yes_no", "link", "file", "reference"];

/** What was typed, as a value of the field's type. */
function typed(type: string, text: string): unknown {
  if (type === "list") return text.split("\n").filter((line) => line.trim());
  if (type === "yes_no" && /^(yes|no)$/i.test(text.trim())) return text.trim().toLowerCase() === "yes";
  if (type === "number" && text.trim() !== "" && Number.isFinite(Number(text))) return Number(text);
  return text;
}

const asText = (value: unknown) =>
  typeof value === "boolean" ? (value ? "yes" : "no") : Array.isArray(value) ? value.join("\n") : String(value ?? "");

export function HandValue({ item, old, type, value }: { item: number; old: string; type: string; value: Value }) {
  const edited = value.edited_at !== ""; // also where it was set to nothing
  const [text, setText] = useState<string | null>(null);
  const now = edited ? value.edited : value.lifted;
  useUnsaved(
    `hand ${value.field}`,
    text !== null && text !== asText(now) ? `${value.field} of ${old}` : "",
    "page kind",
  );
  const { change, error } = useHandValue(old, value.field, () => setText(null));
  return (
    <div className="hand">
      <Told error={error} />
      {text !== null ? (
        <form
          className="acts"
          onSubmit={(e) => {
            e.preventDefault();
            change.mutate({ set: typed(type, text) });
          }}
        >
          <TextField
            label={`${value.field}, by hand`}
            autoFocus
            multiline={type === "passage" || type === "list"}
            value={text}
            onChange={(e) => setText(e.target.value)}
            fullWidth
          />
          <Button
            type="submit"
            variant="contained"
            {...off([text === asText(now), "Nothing is changed."], [change.isPending, BUSY])}
          >
            Set
          </Button>
          <Button type="button" onClick={() => setText(null)}>
            Leave it
          </Button>
        </form>
      ) : (
        <span className="soft">
          {edited && (
            <>
              by hand{value.edited_by && `, ${value.edited_by}`}; found: {shown(value.lifted) || "nothing"}
              {value.conflict && <b style={{ color: "var(--orange)" }}> · changed since</b>}{" "}
            </>
          )}
          {value.blocks > 0 && `${value.blocks} of its blocks set by hand `}
          {BY_TEXT.includes(type) && (
            <button type="button" className="linkish" onClick={() => setText(asText(now))}>
              set it by hand
            </button>
          )}{" "}
          {edited && value.conflict && (
            <button type="button" className="linkish" onClick={() => change.mutate({ set: value.edited })}>
              keep mine
            </button>
          )}{" "}
          {edited && (
            <button type="button" className="linkish" onClick={() => change.mutate({ drop: true })}>
              take what was found
            </button>
          )}{" "}
          {edited && <History item={item} field={value.field} />}
        </span>
      )}
    </div>
  );
}
