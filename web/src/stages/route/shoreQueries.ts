/** What is asked of the new shore as a tree, and moving a part of it. */
import { keepPreviousData, useMutation, useQuery } from "@tanstack/react-query";
import { client, take, type Schemas } from "../../api/client";
import { useCrossingId, useRefresh, useStart } from "../../shell/state";

export type ShoreRow = Schemas["ShoreRow"];
export const STEP = 200; // places that are asked for at once

/** What lies one step below a place, or what has a text in it wherever it lies. */
export function useShore(under: string, search: string, most: number) {
  const crossing = useCrossingId();
  return useQuery({
    queryKey: ["new-side", crossing, under, search, most],
    queryFn: () =>
      take(
        client.GET("/api/crossings/{crossing}/shore", {
          params: { path: { crossing }, query: { under, search, limit: Math.min(most, 500) } },
        }),
      ),
    placeholderData: keepPreviousData,
  });
}

export function useShorePlace(place: string) {
  const crossing = useCrossingId();
  return useQuery({
    queryKey: ["new-side", crossing, "place", place],
    queryFn: () =>
      take(
        client.GET("/api/crossings/{crossing}/shore/place", {
          params: { path: { crossing }, query: { path: place } },
        }),
      ),
    enabled: !!place,
  });
}

/** What moving a place to another would come to. */
export function useLookAtMove(path: string, to: string) {
  const crossing = useCrossingId();
  return useQuery({
    queryKey: ["new-side", crossing, "look", path, to],
    queryFn: () =>
      take(
        client.POST("/api/crossings/{crossing}/shore/look", {
          params: { path: { crossing } },
          body: { path, to, rule: false },
        }),
      ),
    enabled: !!path && !!to && to !== path,
    retry: false,
  });
}

export function useMovePlace() {
  const crossing = useCrossingId();
  const refresh = useRefresh();
  const start = useStart();
  return useMutation({
    mutationFn: (body: Schemas["MoveIn"]) =>
      take(client.POST("/api/crossings/{crossing}/shore/move", { params: { path: { crossing } }, body })),
    onSuccess: () => {
      start.mutate({ kind: "route" });
      void refresh();
    },
  });
}
