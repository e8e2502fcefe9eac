/** What sorting asks of the server. */
import { useQuery } from "@tanstack/react-query";
import { useDeferredValue, useEffect, useState } from "react";
import { client, take, type Schemas } from "../../api/client";
import { useCrossingId } from "../../shell/state";

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
  const wanted = useDeferredValue(JSON.stringify(rules.filter((r) => r.address || r.below || r.element)));
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

/** Pages grouped by how they are made; ``cut``: how coarse, 0 for many groups. */
export function useGroups(cut: number) {
  const crossing = useCrossingId();
  return useQuery({
    queryKey: ["groups", crossing, cut],
    placeholderData: (had) => had,
    queryFn: () =>
      take(client.GET("/api/crossings/{crossing}/groups", { params: { path: { crossing }, query: { cut } } })),
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

/** The fields that a kind made of a group would begin with. */
export function useGroupFields(cut: number, number: number) {
  const crossing = useCrossingId();
  return useQuery({
    queryKey: ["group-fields", crossing, cut, number],
    queryFn: () =>
      take(
        client.GET("/api/crossings/{crossing}/groups/{number}/fields", {
          params: { path: { crossing, number }, query: { cut } },
        }),
      ),
  });
}
