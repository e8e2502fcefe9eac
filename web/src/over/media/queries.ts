/** What the view of media asks of the server. */
import { keepPreviousData, useInfiniteQuery, useQuery } from "@tanstack/react-query";
import { useCallback } from "react";
import { client, take, type Schemas } from "../../api/client";
import { useCrossingId } from "../../shell/state";

export type MediaFile = Schemas["MediaRow"];

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

export function useMissing() {
  const crossing = useCrossingId();
  return useQuery({
    queryKey: ["media", crossing, "missing"],
    queryFn: () => take(client.GET("/api/crossings/{crossing}/media/missing", { params: { path: { crossing } } })),
  });
}

export const small = (crossing: number, id: number) => `/api/crossings/${crossing}/media/${id}/small`;
