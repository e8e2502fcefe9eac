/** Addresses: their lists, one by one, and what is done with them. */
import { keepPreviousData, useMutation, useQuery } from "@tanstack/react-query";
import { useCallback, useMemo } from "react";
import { client, take, type Schemas } from "../../api/client";
import { useCrossingId, useRefresh, useStart } from "../../shell/state";
import { useOf } from "./queries";

export type Filters = Record<string, string[]>;
export interface Asked {
  filters: Filters;
  search: string;
  below: string;
}

/** A list of addresses: its windows, the place of one in it, and all of it as text. */
export function useAddresses({ filters, search, below }: Asked, order: string) {
  const { crossing, path, side } = useOf();
  const query = useMemo(
    () => ({ ...filters, ...(search && { search }), ...(below && { below }), side, order }),
    [filters, search, below, side, order],
  );
  const load = useCallback(
    (offset: number, limit: number, signal: AbortSignal) =>
      take(
        client.GET("/api/crossings/{crossing}/addresses", {
          params: { path, query: { ...query, offset, limit } },
          signal,
        }),
      ),
    [path, query],
  );
  const position = useCallback(
    async (address: number) =>
      (
        await take(
          client.GET("/api/crossings/{crossing}/addresses/position", {
            params: { path, query: { ...query, address } },
          }),
        )
      ).position,
    [path, query],
  );
  const text = useCallback(
    () =>
      take(
        client.GET("/api/crossings/{crossing}/addresses/text", {
          params: { path, query: query as never },
          parseAs: "text",
        }) as never,
      ) as Promise<string>,
    [path, query],
  );
  return { view: [crossing, query], load, position, text };
}

export function useChoices(name: string, { filters, search, below }: Asked, enabled: boolean) {
  const { crossing, side, path } = useOf();
  return useQuery({
    queryKey: ["choices", crossing, side, name, { ...filters, [name]: null }, search, below],
    enabled,
    placeholderData: keepPreviousData,
    queryFn: () =>
      take(
        client.GET("/api/crossings/{crossing}/addresses/choices", {
          params: { path, query: { ...filters, name, search, below, side } as never },
        }),
      ),
  });
}

/** Decide over many addresses at once. */
export function useAct() {
  const { path } = useOf();
  const start = useStart();
  const refresh = useRefresh();
  return useMutation({
    mutationFn: (body: Schemas["Act"]) =>
      take(client.POST("/api/crossings/{crossing}/addresses/act", { params: { path }, body })),
    onSuccess: () => {
      start.mutate({ kind: "route" });
      void refresh();
    },
  });
}

export function useAddress(address: number) {
  const { crossing } = useOf();
  return useQuery({
    queryKey: ["address", crossing, address],
    queryFn: () =>
      take(client.GET("/api/crossings/{crossing}/addresses/{address}", { params: { path: { crossing, address } } })),
  });
}

export function useCaptureTexts(address: number, earlier?: Schemas["CaptureRow"], later?: Schemas["CaptureRow"]) {
  const { crossing } = useOf();
  return useQuery({
    queryKey: ["capture-texts", crossing, address, earlier?.id, later?.id],
    enabled: !!earlier && !!later?.body && earlier.body !== later.body,
    queryFn: () =>
      take(
        client.GET("/api/crossings/{crossing}/addresses/{address}/difference", {
          params: { path: { crossing, address }, query: { earlier: earlier?.id ?? 0, later: later?.id ?? 0 } },
        }),
      ),
  });
}

/** Lift and refit one page alone. */
export function useLiftAgain(address: number) {
  const start = useStart();
  return useMutation({
    mutationFn: async () => {
      await start.mutateAsync({ kind: "lift", only: address });
      await start.mutateAsync({ kind: "refit", only: address });
    },
    onSettled: useRefresh(),
  });
}

/** Capture one page through a browser, now and whenever it is surveyed. */
export function useThroughBrowser(address: number) {
  const { crossing } = useOf();
  return useMutation({
    mutationFn: () =>
      take(
        client.POST("/api/crossings/{crossing}/addresses/{address}/browser", {
          params: { path: { crossing, address } },
        }),
      ),
    onSettled: useRefresh(),
  });
}

/** Every rule of every kind held against a page. */
export function useKindsOfAddress(address: number) {
  const crossing = useCrossingId();
  return useQuery({
    queryKey: ["kinds-of", crossing, address],
    queryFn: () =>
      take(
        client.GET("/api/crossings/{crossing}/addresses/{address}/kinds", { params: { path: { crossing, address } } }),
      ),
  });
}
