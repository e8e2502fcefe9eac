/** What sorting asks of the server. */
import { useMutation, useQuery } from "@tanstack/react-query";
import { useDeferredValue, useEffect, useState } from "react";
import { client, take, type Schemas } from "../../api/client";
import { useCrossingId, useRefresh, useStart } from "../../shell/state";
import { asks } from "./kind";

/** The kinds with their page counts; ``fate``: counts narrowed to addresses of these fates. */
export function useKinds(fate: string[] = []) {
  const crossing = useCrossingId();
  return useQuery({
    queryKey: ["kinds", crossing, fate],
    queryFn: () =>
      take(client.GET("/api/crossings/{crossing}/kinds", { params: { path: { crossing }, query: { fate } } })),
  });
}

/** What some rules would catch, while they are written; rules that say nothing are left aside. */
export function useTriedRules(rules: Schemas["SortRule"][]) {
  const crossing = useCrossingId();
  const wanted = useDeferredValue(JSON.stringify(rules.filter(asks)));
  const [asked, setAsked] = useState(wanted);
  useEffect(() => {
    const timer = window.setTimeout(() => setAsked(wanted), 250);
    return () => clearTimeout(timer);
  }, [wanted]);
  return useQuery({
    queryKey: ["try-rules", crossing, asked],
    enabled: asked !== "[]",
    queryFn: ({ signal }) =>
      take(
        client.POST("/api/crossings/{crossing}/kinds/try", {
          params: { path: { crossing } },
          body: { rules: JSON.parse(asked) as Schemas["SortRule"][] },
          signal,
        }),
      ),
  });
}

export type Group = Schemas["GroupRow"];

/** Pages grouped by how they are made; ``cut``: how coarse, 0 for many groups; ``within``: of one group alone. */
export function useGroups(cut: number, within = "") {
  const crossing = useCrossingId();
  return useQuery({
    queryKey: ["groups", crossing, cut, within],
    placeholderData: (had) => had,
    queryFn: () =>
      take(
        client.GET("/api/crossings/{crossing}/groups", {
          params: { path: { crossing }, query: { cut, ...(within ? { within } : {}) } },
        }),
      ),
  });
}

/** The first pages of a group. */
export function useGroupPages(cut: number, number: number) {
  const crossing = useCrossingId();
  return useQuery({
    queryKey: ["group-pages", crossing, cut, number],
    queryFn: () =>
      take(
        client.GET("/api/crossings/{crossing}/groups/{number}/pages", {
          params: { path: { crossing, number }, query: { cut, limit: 100 } },
        }),
      ),
  });
}

/** The fields that a kind made of some groups would begin with. */
export function useGroupFields(cut: number, numbers: number[]) {
  const crossing = useCrossingId();
  return useQuery({
    queryKey: ["group-fields", crossing, cut, numbers],
    queryFn: () =>
      take(
        client.POST("/api/crossings/{crossing}/groups/fields", {
          params: { path: { crossing } },
          body: { cut, numbers },
        }),
      ),
  });
}

/** Some groups taken together: the rule that separates them, and what their make alone does. */
export function useJoined(cut: number, numbers: number[]) {
  const crossing = useCrossingId();
  return useQuery({
    queryKey: ["group-joined", crossing, cut, numbers],
    queryFn: () =>
      take(
        client.POST("/api/crossings/{crossing}/groups/joined", {
          params: { path: { crossing } },
          body: { cut, numbers },
        }),
      ),
  });
}

/** Where a group comes apart. */
export function useDivide(cut: number, onApart: (number: number, finer: number) => void) {
  const crossing = useCrossingId();
  return useMutation({
    mutationFn: (number: number) =>
      take(
        client.POST("/api/crossings/{crossing}/groups/{number}/divide", {
          params: { path: { crossing, number }, query: { cut } },
        }),
      ),
    onSuccess: (found, number) => onApart(number, found.cut),
  });
}

/** The pages of some groups set aside with a reason, and decided anew. */
export function useAsideGroups(cut: number) {
  const crossing = useCrossingId();
  const start = useStart();
  const refresh = useRefresh();
  return useMutation({
    mutationFn: (wanted: { numbers: number[]; reason: string }) =>
      take(
        client.POST("/api/crossings/{crossing}/groups/aside", {
          params: { path: { crossing } },
          body: { cut, ...wanted },
        }),
      ),
    onSuccess: () => start.mutate({ kind: "route" }),
    onSettled: refresh,
  });
}

/** Records of which no page is captured, by kind and state. */
export function useAlone() {
  const crossing = useCrossingId();
  return useQuery({
    queryKey: ["records-alone", crossing],
    queryFn: () => take(client.GET("/api/crossings/{crossing}/records/alone", { params: { path: { crossing } } })),
  });
}

/** A kind for records, with the fields that they fill. */
export function useKindOfRecords() {
  const crossing = useCrossingId();
  return useMutation({
    mutationFn: (body: Schemas["OfRecordsIn"]) =>
      take(client.POST("/api/crossings/{crossing}/records/kind", { params: { path: { crossing } }, body })),
  });
}
