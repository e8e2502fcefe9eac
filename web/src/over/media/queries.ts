/** What the view of media asks of the server. */
import { keepPreviousData, useInfiniteQuery, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback } from "react";
import { client, take, type Schemas } from "../../api/client";
import { useCrossingId, useStart } from "../../shell/state";

export type MediaFile = Schemas["MediaRow"];
export type MediaDetail = Schemas["MediaDetail"];
export type Said = Schemas["FileSaid"];

export interface Asked {
  family: string;
  only: string;
  order: string;
  search: string;
}

const PAGE = 120;

function useAsk() {
  const crossing = useCrossingId();
  return useCallback(
    (asked: Asked, offset: number, limit: number, signal?: AbortSignal) =>
      take(
        client.GET("/api/crossings/{crossing}/media", {
          params: {
            path: { crossing },
            query: {
              family: (asked.family || undefined) as undefined,
              only: asked.only as "",
              order: asked.order,
              search: asked.search,
              offset,
              limit,
            },
          },
          signal,
        }),
      ),
    [crossing],
  );
}

/** Files in windows for the list. */
export function useMedia({ family, only, order, search }: Asked) {
  const crossing = useCrossingId();
  const ask = useAsk();
  const load = useCallback(
    (offset: number, limit: number, signal: AbortSignal) => ask({ family, only, order, search }, offset, limit, signal),
    [ask, family, only, order, search],
  );
  return { view: ["media", crossing, family, only, order, search], load };
}

/** The first of them, more when asked, with how many there are of each sort. */
export function usePictures(asked: Asked) {
  const crossing = useCrossingId();
  const ask = useAsk();
  return useInfiniteQuery({
    queryKey: ["media", crossing, "grid", asked],
    placeholderData: keepPreviousData,
    initialPageParam: 0,
    queryFn: ({ pageParam, signal }) => ask(asked, pageParam, PAGE, signal),
    getNextPageParam: (last) => (last.offset + last.rows.length < last.total ? last.offset + PAGE : undefined),
  });
}

export function useFile(id: number) {
  const crossing = useCrossingId();
  return useQuery({
    queryKey: ["media", crossing, "file", id],
    enabled: id > 0,
    queryFn: () =>
      take(client.GET("/api/crossings/{crossing}/media/{address}", { params: { path: { crossing, address: id } } })),
  });
}

/** Say something of files; new names and what stays behind are decided at once. */
export function useSay() {
  const crossing = useCrossingId();
  const queries = useQueryClient();
  const start = useStart();
  return useMutation({
    mutationFn: async (said: { files: number[] } & Partial<Omit<Said, "file">>) => {
      const made = await take(
        client.POST("/api/crossings/{crossing}/media/said", {
          params: { path: { crossing } },
          body: { text: "", ...said },
        }),
      );
      start.mutate({ kind: "route" });
      return made;
    },
    onSettled: () => queries.invalidateQueries({ predicate: (q) => q.queryKey[0] !== "preview" }),
  });
}

export function useMissing() {
  const crossing = useCrossingId();
  return useQuery({
    queryKey: ["media", crossing, "missing"],
    queryFn: () => take(client.GET("/api/crossings/{crossing}/media/missing", { params: { path: { crossing } } })),
  });
}

export const small = (crossing: number, id: number) => `/api/crossings/${crossing}/media/${id}/small`;
