/** What landing asks of the server. */
import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useState } from "react";
import { client, take, type Schemas } from "../../api/client";
import { useCrossingId } from "../../shell/state";

export type Thing = Schemas["ThingRow"] & { id: number };

export function useLandings() {
  const crossing = useCrossingId();
  return useQuery({
    queryKey: ["landings", crossing],
    queryFn: () => take(client.GET("/api/crossings/{crossing}/landings", { params: { path: { crossing } } })),
  });
}

/** The ready profiles of folders of Markdown. */
export function useProfiles() {
  const crossing = useCrossingId();
  return useQuery({
    queryKey: ["profiles", crossing],
    staleTime: Infinity,
    queryFn: () => take(client.GET("/api/crossings/{crossing}/profiles", { params: { path: { crossing } } })),
  });
}

/** The folder that the crossing lands in. */
export function useFolder() {
  const crossing = useCrossingId();
  return useQuery({
    queryKey: ["landings", crossing, "folder"],
    queryFn: () => take(client.GET("/api/crossings/{crossing}/landed", { params: { path: { crossing } } })),
  });
}

/** What a person altered in the folder since it was written. */
export function useAltered() {
  const crossing = useCrossingId();
  return useQuery({
    queryKey: ["landings", crossing, "altered"],
    gcTime: 0,
    retry: false,
    queryFn: () => take(client.GET("/api/crossings/{crossing}/landed/altered", { params: { path: { crossing } } })),
  });
}

/** Take it in as set by hand: of the items that are named, of all others without any. */
export function useTakeIn() {
  const crossing = useCrossingId();
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (keys: string[]) =>
      take(client.POST("/api/crossings/{crossing}/landed/altered", { params: { path: { crossing } }, body: { keys } })),
    onSettled: () => queries.invalidateQueries(),
  });
}

/** What would be written of an item to the folder; asked for one that is named. */
export function useLandingFile(item: string) {
  const crossing = useCrossingId();
  return useQuery({
    queryKey: ["landing-file", crossing, item],
    enabled: item !== "",
    gcTime: 0,
    queryFn: () =>
      take(client.GET("/api/crossings/{crossing}/landing-file", { params: { path: { crossing }, query: { item } } })),
  });
}

/** What one landing did with every thing, in windows, and how many things are in each state. */
export function useThings(landing: number, state: string, search: string, fates: string[]) {
  const crossing = useCrossingId();
  const fate = fates.join("|");
  const [states, setStates] = useState<Record<string, number>>({});
  const load = useCallback(
    async (offset: number, limit: number, signal: AbortSignal) => {
      const found = await take(
        client.GET("/api/crossings/{crossing}/landings/{landing}/things", {
          params: {
            path: { crossing, landing },
            query: { offset, limit, state, search, fate: fate ? fate.split("|") : [] },
          },
          signal,
        }),
      );
      setStates(found.states);
      return { total: found.total, rows: found.rows.map((r, n): Thing => ({ ...r, id: offset + n + 1 })) };
    },
    [crossing, landing, state, search, fate],
  );
  return { view: [crossing, landing, state, search, fate], load, states };
}

/** Items by their text, those with a new address first of all for a trial. */
export function useTrialItems(search: string) {
  const crossing = useCrossingId();
  return useQuery({
    queryKey: ["trial", crossing, search],
    placeholderData: keepPreviousData,
    queryFn: () =>
      take(
        client.GET("/api/crossings/{crossing}/items", {
          params: { path: { crossing }, query: { search, limit: 100, placed: true } },
        }),
      ),
  });
}
