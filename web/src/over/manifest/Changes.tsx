/** Who changed what in the plan, newest first; the newest can be taken back. */
import { Button } from "@mui/material";
import { useUndo } from "../../shell/queries";
import { when } from "../../shell/state";
import { Told } from "../../shores/Told";
import { useChanges } from "./queries";
import { BUSY, off } from "../../shell/off";

export function Changes() {
  const list = useChanges();
  const { undo, error } = useUndo();
  const newest = list.data?.find((c) => !c.undone);
  return (
    <section className="panel" style={{ flex: 1 }} aria-label="Changes">
      <h2>
        Changes of the plan <small>what people decided</small>
      </h2>
      <Told error={list.error ?? error} />
      <div className="scroll">
        <table className="plain">
          <thead>
            <tr>
              <th>when</th>
              <th>who</th>
              <th>what</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {(list.data ?? []).map((change) => (
              <tr key={change.id}>
                <td className="nowrap soft">{when(change.at)}</td>
                <td className="nowrap">{change.by || "–"}</td>
                <td
                  style={{
                    textDecoration: change.undone && !change.text.startsWith("taken back") ? "line-through" : "none",
                  }}
                >
                  {change.text}
                </td>
                <td className="n">
                  {change.id === newest?.id && (
                    <Button variant="outlined" onClick={() => undo.mutate()} {...off([undo.isPending, BUSY])}>
                      Take back <kbd style={{ marginLeft: 5 }}>Z</kbd>
                    </Button>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
        {list.data?.length === 0 && <div className="empty">Nothing has been changed here yet.</div>}
      </div>
    </section>
  );
}
