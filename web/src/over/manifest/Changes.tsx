/** Who changed what in the plan, newest first; the newest can be taken back. */
import { Button } from "@mui/material";
import { useMutation, useQuery } from "@tanstack/react-query";
import { client, take } from "../../api/client";
import { useCrossingId, useRefresh, useStart, when } from "../../shell/state";
import { Told } from "../../shores/Told";

export function Changes() {
  const id = useCrossingId();
  const refresh = useRefresh();
  const start = useStart();
  const path = { crossing: id };
  const list = useQuery({
    queryKey: ["changes", id],
    queryFn: () => take(client.GET("/api/crossings/{crossing}/changes", { params: { path } })),
  });
  const undo = useMutation({
    mutationFn: () => take(client.POST("/api/crossings/{crossing}/undo", { params: { path } })),
    onSuccess: () => start.mutate({ kind: "route" }),
    onSettled: refresh,
  });
  const newest = list.data?.find((c) => !c.undone);
  return (
    <section className="panel" style={{ flex: 1 }} aria-label="Changes">
      <h2>
        Changes of the plan <small>what people decided</small>
      </h2>
      <Told error={list.error ?? undo.error ?? start.error} />
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
                    <Button variant="outlined" onClick={() => undo.mutate()} disabled={undo.isPending}>
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
