/** What was changed by hand of an item's values, the newest first. */
import { useState } from "react";
import { Told } from "../../shores/Told";
import { shown } from "./field";
import { useHistory } from "./queries";

export function History({ item, field }: { item: number; field: string }) {
  const [open, setOpen] = useState(false);
  const asked = useHistory(open ? item : 0);
  const rows = (asked.data ?? []).filter((row) => row.field === field);
  return (
    <>
      <button type="button" className="linkish" aria-expanded={open} onClick={() => setOpen(!open)}>
        history
      </button>
      {open && (
        <div className="history" aria-label={`History of ${field}`}>
          <Told error={asked.error} />
          {asked.data && !rows.length && <div className="soft">Nothing was changed by hand.</div>}
          {rows.map((row) => (
            <div key={row.change} className={row.undone ? "soft" : ""}>
              {new Date(row.at).toLocaleString()} {row.by && `${row.by}: `}
              {row.text}
              {row.undone && " (taken back)"}; before it{" "}
              {row.before === null ? "as it was found" : <b>{shown(row.before)}</b>}
            </div>
          ))}
        </div>
      )}
    </>
  );
}
