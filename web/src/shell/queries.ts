/** What the frame asks of the server for every view: the manifest, jobs, what is behind, the log, what can be gone to. */
import { useMutation, useQueries, useQuery } from "@tanstack/react-query";
import { client, take } from "../api/client";
import { useCrossingId, useRefresh, useStart } from "./state";

export function useCrossings(enabled = true) {
  return useQuery({ queryKey: ["crossings"], queryFn: () => take(client.GET("/api/crossings")), enabled });
}

export function useManifest() {
  const crossing = useCrossingId();
  return useQuery({
    queryKey: ["manifest", crossing],
    queryFn: () => take(client.GET("/api/crossings/{crossing}/manifest", { params: { path: { crossing } } })),
    enabled: Number.isFinite(crossing),
  });
}

/** Take the last change of the plan back; what hangs on it is decided anew. */
export function useUndo() {
  const crossing = useCrossingId();
  const start = useStart();
  const undo = useMutation({
    mutationFn: () => take(client.POST("/api/crossings/{crossing}/undo", { params: { path: { crossing } } })),
    onSuccess: () => start.mutate({ kind: "route" }),
    onSettled: useRefresh(),
  });
  return { undo, error: undo.error ?? start.error };
}

// --- jobs --------------------------------------------------------------------------------------------

export function useJobKinds() {
  return useQuery({
    queryKey: ["job-kinds"],
    staleTime: Infinity,
    queryFn: () => take(client.GET("/api/jobs/kinds")),
  });
}

/** Ask a job to stop, to pause, or to go on. */
export function useWish() {
  return useMutation({
    mutationFn: ({ job, what }: { job: number; what: "stop" | "pause" | "go-on" }) =>
      take(client.POST(`/api/jobs/{job}/${what}`, { params: { path: { job } } })),
    onSettled: useRefresh(),
  });
}

export function useLog(kind: string) {
  const crossing = useCrossingId();
  return useQuery({
    queryKey: ["log", crossing, kind],
    queryFn: () =>
      take(
        client.GET("/api/crossings/{crossing}/log", {
          params: { path: { crossing }, query: { kind, limit: 500 } },
        }),
      ),
  });
}

// --- what is behind ----------------------------------------------------------------------------------

export function useBehind() {
  const crossing = useCrossingId();
  return useQuery({
    queryKey: ["behind", crossing],
    queryFn: () => take(client.GET("/api/crossings/{crossing}/behind", { params: { path: { crossing } } })),
    enabled: Number.isFinite(crossing),
  });
}

export function useBehindRows(stage: string, limit: number) {
  const crossing = useCrossingId();
  return useQuery({
    queryKey: ["behind-rows", crossing, stage],
    queryFn: () =>
      take(
        client.GET("/api/crossings/{crossing}/behind/rows", {
          params: { path: { crossing }, query: { stage, limit } },
        }),
      ),
  });
}

// --- going somewhere ---------------------------------------------------------------------------------

/** Addresses and items of a crossing by a few letters. */
export function useFound(crossing: number, wanted: string) {
  return useQuery({
    queryKey: ["palette", crossing, wanted],
    enabled: wanted.length > 1 && crossing > 0,
    queryFn: async ({ signal }) => {
      const path = { crossing };
      const [addresses, items] = await Promise.all([
        take(
          client.GET("/api/crossings/{crossing}/addresses", {
            params: { path, query: { search: wanted, limit: 12 } },
            signal,
          }),
        ),
        take(
          client.GET("/api/crossings/{crossing}/items", {
            params: { path, query: { search: wanted, limit: 8 } },
            signal,
          }),
        ),
      ]);
      return { addresses: addresses.rows, items: items.rows };
    },
  });
}

/** The folders right below some places of a side; without a host, its hosts. */
export function useBranches(side: "old" | "new", places: { host: string; below: string }[]) {
  const crossing = useCrossingId();
  return useQueries({
    queries: places.map((o) => ({
      queryKey: ["tree", crossing, side, o.host, o.below],
      queryFn: () =>
        take(
          client.GET("/api/crossings/{crossing}/tree", {
            params: { path: { crossing }, query: { host: o.host, below: o.below, side } },
          }),
        ),
      enabled: o.host !== "" || o.below === "/",
    })),
  });
}

/** The latest changes of what people decided, the newest first. */
export function useChanges() {
  const crossing = useCrossingId();
  return useQuery({
    queryKey: ["changes", crossing],
    queryFn: () => take(client.GET("/api/crossings/{crossing}/changes", { params: { path: { crossing } } })),
  });
}
