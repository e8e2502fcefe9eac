/** What the manifest asks of the server: the account by folder, changes, what was set by hand, the plan as a file. */
import { useMutation, useQuery } from "@tanstack/react-query";
import { client, take, type Schemas } from "../../api/client";
import { useCrossingId, useRefresh, useStart } from "../../shell/state";

export function useFolders() {
  const crossing = useCrossingId();
  return useQuery({
    queryKey: ["folders", crossing],
    queryFn: () => take(client.GET("/api/crossings/{crossing}/folders", { params: { path: { crossing } } })),
  });
}

export function useChanges() {
  const crossing = useCrossingId();
  return useQuery({
    queryKey: ["changes", crossing],
    queryFn: () => take(client.GET("/api/crossings/{crossing}/changes", { params: { path: { crossing } } })),
  });
}

/** What was set by hand, and settling it: it is laid over what is there now, or what was found is taken. */
export function useByHand() {
  const crossing = useCrossingId();
  const start = useStart();
  const list = useQuery({
    queryKey: ["edits", crossing],
    queryFn: () => take(client.GET("/api/crossings/{crossing}/edits", { params: { path: { crossing } } })),
  });
  const settle = useMutation({
    mutationFn: (body: Schemas["EditsChange"]) =>
      take(client.POST("/api/crossings/{crossing}/edits", { params: { path: { crossing } }, body })),
    onSuccess: () => start.mutate({ kind: "route" }),
    onSettled: useRefresh(),
  });
  return { list, settle, start };
}

/** Take parts of a plan over: of a file, or of another crossing. */
export function useTakeOver() {
  const crossing = useCrossingId();
  return useMutation({
    mutationFn: async ({ from, parts }: { from: Blob | number; parts: string[] }) => {
      const content = typeof from === "number" ? await (await fetch(`/api/crossings/${from}/plan/file`)).blob() : from;
      return take(
        client.PUT("/api/crossings/{crossing}/plan/file", {
          params: { path: { crossing }, query: { part: parts as never } },
          body: content as never,
          bodySerializer: (body: unknown) => body as BodyInit,
          headers: { "Content-Type": "application/octet-stream" },
        }),
      );
    },
    onSettled: useRefresh(),
  });
}
