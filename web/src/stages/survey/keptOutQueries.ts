/** What is kept out of a survey, and what its bounds do. */
import { keepPreviousData, useMutation, useQuery } from "@tanstack/react-query";
import { useCallback, useDeferredValue, useMemo } from "react";
import { useSettled } from "../../shell/settled";
import { client, take, type Schemas } from "../../api/client";
import { useRefresh, type Plan } from "../../shell/state";
import { useOf } from "./queries";

export function useKeptOut() {
  const { crossing, side, path, query } = useOf();
  return useQuery({
    queryKey: ["kept-out", crossing, side],
    queryFn: () => take(client.GET("/api/crossings/{crossing}/kept-out", { params: { path, query } })),
  });
}

export interface KeptOutAsked {
  host: string;
  reason: string;
  search: string;
}

export function useKeptOutSorts(asked: KeptOutAsked) {
  const { crossing, side, path } = useOf();
  return useQuery({
    queryKey: ["kept-out-sorts", crossing, side, asked],
    queryFn: () =>
      take(client.GET("/api/crossings/{crossing}/kept-out/sorts", { params: { path, query: { ...asked, side } } })),
    placeholderData: keepPreviousData,
  });
}

export function useKeptOutRows(asked: KeptOutAsked & { what: string; order: "url" | "-pages" }) {
  const { crossing, side, path } = useOf();
  const { host, reason, search, what, order } = asked;
  const query = useMemo(() => ({ host, reason, search, what, order, side }), [host, reason, search, what, order, side]);
  const load = useCallback(
    (offset: number, limit: number, signal: AbortSignal) =>
      take(
        client.GET("/api/crossings/{crossing}/kept-out/rows", {
          params: { path, query: { ...query, offset, limit } },
          signal,
        }),
      ),
    [path, query],
  );
  return { view: ["kept-out", crossing, query], load };
}

export function useLetIn(onDone: () => void) {
  const { path, query } = useOf();
  const refresh = useRefresh();
  return useMutation({
    mutationFn: (body: Schemas["LettingIn"]) =>
      take(client.POST("/api/crossings/{crossing}/kept-out/let-in", { params: { path, query }, body })),
    onSuccess: () => (onDone(), void refresh()),
  });
}

/** What the bounds of a plan would do; ``keptOut``: only what they would let in of the addresses kept out. */
export function useEffectOf(plan: Plan | null, keptOut = false) {
  const { crossing, side, path } = useOf();
  const text = plan ? JSON.stringify(plan) : "";
  const settled = useSettled(text);
  return useQuery({
    queryKey: ["effect", crossing, side, settled, keptOut],
    enabled: settled !== "",
    placeholderData: keepPreviousData,
    retry: false,
    queryFn: () =>
      take(
        client.POST("/api/crossings/{crossing}/bounds/effect", {
          params: { path, query: { kept_out: keptOut, side } },
          body: JSON.parse(settled) as Schemas["Plan"],
        }),
      ),
  });
}

/** How many known addresses each line of these bounds speaks of. */
export function useLineCounts(plan: Plan | null) {
  const { crossing, side, path, query } = useOf();
  const text = useDeferredValue(plan ? JSON.stringify(plan) : "");
  return useQuery({
    queryKey: ["bounds-lines", crossing, side, text],
    enabled: text !== "",
    placeholderData: keepPreviousData,
    retry: false,
    queryFn: () =>
      take(
        client.POST("/api/crossings/{crossing}/bounds/lines", {
          params: { path, query },
          body: JSON.parse(text) as Schemas["Plan"],
        }),
      ),
  });
}
