/** What routing asks of the server and has done there. */
import { useMutation, useQuery } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import { client, take, type Schemas } from "../../api/client";
import { useCrossingId, useRefresh, useStart } from "../../shell/state";

export type Rule = Schemas["RouteRule"];

/** Unaccounted and merely planned addresses, by shape. */
export function useOpen() {
  const crossing = useCrossingId();
  return useQuery({
    queryKey: ["open", crossing],
    queryFn: () => take(client.GET("/api/crossings/{crossing}/open", { params: { path: { crossing } } })),
  });
}

export type ShapeGroup = Schemas["ShapeGroup"];

/** Decide over all unaccounted addresses of a shape. */
export function useShapeAct() {
  const crossing = useCrossingId();
  const refresh = useRefresh();
  const start = useStart();
  return useMutation({
    mutationFn: (body: Schemas["ShapeAct"]) =>
      take(client.POST("/api/crossings/{crossing}/open/act", { params: { path: { crossing } }, body })),
    onSuccess: () => {
      start.mutate({ kind: "route" });
      void refresh();
    },
  });
}

/** The new addresses that an old one is likely to have become. */
export function useLikely(address: string) {
  const crossing = useCrossingId();
  return useQuery({
    queryKey: ["likely", crossing, address],
    queryFn: () =>
      take(client.GET("/api/crossings/{crossing}/likely", { params: { path: { crossing }, query: { address } } })),
  });
}

export type SuggestedRow = Schemas["SuggestedRow"];

/** What open addresses have likely become, in windows; and how many are at least so sure. */
export function useSuggested(search: string) {
  const crossing = useCrossingId();
  const rows = useRef(new Map<number, SuggestedRow>());
  const [counts, setCounts] = useState<[number, number][]>([]);
  const load = useCallback(
    async (offset: number, limit: number, signal: AbortSignal) => {
      const found = await take(
        client.GET("/api/crossings/{crossing}/suggested", {
          params: { path: { crossing }, query: { offset, limit, search } },
          signal,
        }),
      );
      for (const row of found.rows) rows.current.set(row.id, row);
      setCounts(found.steps.map((step, n) => [step, found.counts[n] ?? 0]));
      return { total: found.total, rows: found.rows };
    },
    [crossing, search],
  );
  return { view: [crossing, search], load, counts, known: (id: number) => rows.current.get(id) };
}

export function useSuggestedRules() {
  const crossing = useCrossingId();
  return useQuery({
    queryKey: ["suggested", crossing, "rules"],
    queryFn: () => take(client.GET("/api/crossings/{crossing}/suggested/rules", { params: { path: { crossing } } })),
  });
}

/** Take a suggested rule, with lines for what goes elsewhere. */
export function useTakeRule() {
  const crossing = useCrossingId();
  const refresh = useRefresh();
  const start = useStart();
  return useMutation({
    mutationFn: (old: string) =>
      take(client.POST("/api/crossings/{crossing}/suggested/rules", { params: { path: { crossing } }, body: { old } })),
    onSuccess: () => start.mutate({ kind: "route" }),
    onSettled: () => refresh(),
  });
}

/** What no rule can say, taken together. */
export function useSuggestedTables() {
  const crossing = useCrossingId();
  return useQuery({
    queryKey: ["suggested", crossing, "tables"],
    queryFn: () => take(client.GET("/api/crossings/{crossing}/suggested/tables", { params: { path: { crossing } } })),
  });
}

/** Take suggestions as pairs: of some addresses, else all that are at least so sure; what hangs on it is decided. */
export function useTakeSuggested() {
  const crossing = useCrossingId();
  const refresh = useRefresh();
  const start = useStart();
  return useMutation({
    mutationFn: async (wanted: Schemas["SuggestedPairs"]) => {
      const made = await take(
        client.POST("/api/crossings/{crossing}/suggested", { params: { path: { crossing } }, body: wanted }),
      );
      if (made.taken) start.mutate({ kind: "route" });
      return made;
    },
    onSettled: () => refresh(),
  });
}

// --- items without an address ------------------------------------------------------------------------

export function useWithout() {
  const crossing = useCrossingId();
  return useQuery({
    queryKey: ["without-address", crossing],
    queryFn: () =>
      take(client.GET("/api/crossings/{crossing}/items/without-address", { params: { path: { crossing } } })),
  });
}

/** How many items have a number in their address, since another was first to have it. */
export function useClashes() {
  const crossing = useCrossingId();
  return useQuery({
    queryKey: ["clashes", crossing],
    queryFn: () =>
      take(
        client.GET("/api/crossings/{crossing}/items", {
          params: { path: { crossing }, query: { clashing: true, limit: 1 } },
        }),
      ),
  });
}

export function useWithoutRows(kind: string, clashing: boolean) {
  const crossing = useCrossingId();
  const load = useCallback(
    (offset: number, limit: number, signal: AbortSignal) =>
      take(
        client.GET("/api/crossings/{crossing}/items", {
          params: {
            path: { crossing },
            query: { ...(clashing ? { clashing } : { placed: false }), kind: kind || undefined, offset, limit },
          },
          signal,
        }),
      ),
    [crossing, kind, clashing],
  );
  return { view: [crossing, kind, clashing], load };
}

// --- files of other hosts ----------------------------------------------------------------------------

export function useSisterHosts() {
  const crossing = useCrossingId();
  return useQuery({
    queryKey: ["sister-hosts", crossing],
    queryFn: () => take(client.GET("/api/crossings/{crossing}/sisters/hosts", { params: { path: { crossing } } })),
  });
}

export function useSisterFiles(host: string, fate: Schemas["SisterFate"] | "") {
  const crossing = useCrossingId();
  const load = useCallback(
    (offset: number, limit: number, signal: AbortSignal) =>
      take(
        client.GET("/api/crossings/{crossing}/sisters", {
          params: { path: { crossing }, query: { host, fate: fate || undefined, offset, limit } },
          signal,
        }),
      ),
    [crossing, host, fate],
  );
  return { view: [crossing, host, fate], load };
}

// --- pairs -------------------------------------------------------------------------------------------

export function usePairCount() {
  const crossing = useCrossingId();
  return useQuery({
    queryKey: ["pairs-count", crossing],
    queryFn: () =>
      take(client.GET("/api/crossings/{crossing}/pairs", { params: { path: { crossing }, query: { limit: 1 } } })),
  });
}

export type PairRow = Schemas["PairRow"] & { id: number };

/** The pairs in windows; ``old``: the old address of a row that was shown. */
export function usePairRows(search: string) {
  const crossing = useCrossingId();
  const known = useRef(new Map<number, string>());
  const load = useCallback(
    async (offset: number, limit: number, signal: AbortSignal) => {
      const found = await take(
        client.GET("/api/crossings/{crossing}/pairs", {
          params: { path: { crossing }, query: { offset, limit, search } },
          signal,
        }),
      );
      const rows = found.rows.map((r, n): PairRow => ({ ...r, id: offset + n + 1 }));
      for (const row of rows) known.current.set(row.id, row.old);
      return { total: found.total, rows };
    },
    [crossing, search],
  );
  return { view: [crossing, search], load, old: (row: number) => known.current.get(row) };
}

/** Set the pairs of a text; the answer names the lines that hold none. */
export function useLines() {
  const crossing = useCrossingId();
  const refresh = useRefresh();
  const start = useStart();
  return useMutation({
    mutationFn: async (lines: string) => {
      const made = await take(
        client.POST("/api/crossings/{crossing}/pairs/lines", { params: { path: { crossing } }, body: { lines } }),
      );
      if (made.set) start.mutate({ kind: "route" });
      return made;
    },
    onSettled: () => refresh(),
  });
}

// --- rules -------------------------------------------------------------------------------------------

export function useRules() {
  const crossing = useCrossingId();
  return useQuery({
    queryKey: ["rules", crossing],
    queryFn: () => take(client.GET("/api/crossings/{crossing}/rules", { params: { path: { crossing } } })),
  });
}

/** The old addresses of pairs that a rule says as well. */
export function useRulePairs(number: number) {
  const crossing = useCrossingId();
  return useQuery({
    queryKey: ["rules", crossing, number, "pairs"],
    queryFn: () =>
      take(client.GET("/api/crossings/{crossing}/rules/{number}/pairs", { params: { path: { crossing, number } } })),
  });
}

/** A rule as single lines, or single lines left to a rule that says the same. */
export function useSpelt() {
  const crossing = useCrossingId();
  const refresh = useRefresh();
  const start = useStart();
  return useMutation({
    mutationFn: ({ number, how }: { number: number; how: "lines" | "gather" }) =>
      how === "lines"
        ? take(
            client.POST("/api/crossings/{crossing}/rules/{number}/lines", { params: { path: { crossing, number } } }),
          )
        : take(
            client.POST("/api/crossings/{crossing}/rules/{number}/gather", { params: { path: { crossing, number } } }),
          ),
    onSuccess: () => {
      start.mutate({ kind: "route" });
      void refresh();
    },
  });
}

/** Everything a rule would catch, while it is written; ``asked`` is the rule that was asked about last. */
export function useTriedRule(draft: Rule) {
  const crossing = useCrossingId();
  const text = JSON.stringify(draft);
  const [asked, setAsked] = useState(text);
  useEffect(() => {
    const timer = window.setTimeout(() => setAsked(text), 200);
    return () => clearTimeout(timer);
  }, [text]);
  const wanted = JSON.parse(asked) as Rule;
  const tried = useQuery({
    queryKey: ["try-rule", crossing, asked],
    enabled: wanted.old !== "" && (wanted.status === 410 || wanted.new !== ""),
    queryFn: ({ signal }) =>
      take(
        client.POST("/api/crossings/{crossing}/rules/try", {
          params: { path: { crossing } },
          body: wanted,
          signal,
        }),
      ),
  });
  return { tried, asked };
}

/** What the map answers to one address. */
export function useAsk() {
  const crossing = useCrossingId();
  return useMutation({
    mutationFn: (address: string) =>
      take(client.POST("/api/crossings/{crossing}/ask", { params: { path: { crossing } }, body: { address } })),
  });
}

// --- rounds ------------------------------------------------------------------------------------------

export function useRounds() {
  const crossing = useCrossingId();
  return useQuery({
    queryKey: ["rounds", crossing],
    queryFn: () => take(client.GET("/api/crossings/{crossing}/rounds", { params: { path: { crossing } } })),
  });
}

export type Verdict = Schemas["VerdictRow"] & { id: number };

/** What each address answered in a round, in windows. */
export function useVerdicts(round: number, verdict: string) {
  const crossing = useCrossingId();
  const load = useCallback(
    async (offset: number, limit: number, signal: AbortSignal) => {
      const found = await take(
        client.GET("/api/crossings/{crossing}/rounds/{round}/verdicts", {
          params: { path: { crossing, round }, query: { offset, limit, verdict } },
          signal,
        }),
      );
      return { total: found.total, rows: found.rows.map((r) => ({ ...r, id: r.address }) as Verdict) };
    },
    [crossing, round, verdict],
  );
  return { view: [crossing, round, verdict], load };
}

/** Any two rounds against each other, in windows; their counts in ``counts``. */
export function useTurns(round: number, before: number, what: string) {
  const crossing = useCrossingId();
  const [counts, setCounts] = useState<Record<string, number>>({});
  const load = useCallback(
    async (offset: number, limit: number, signal: AbortSignal) => {
      const found = await take(
        client.GET("/api/crossings/{crossing}/rounds/{round}/against/{before}", {
          params: { path: { crossing, round, before }, query: { offset, limit, what } },
          signal,
        }),
      );
      setCounts(found.counts);
      return { total: found.total, rows: found.rows.map((r) => ({ ...r, id: r.address })) };
    },
    [crossing, round, before, what],
  );
  return { view: [crossing, round, before, what], load, counts };
}

/** Deciding over all addresses of which the latest round found one thing. */
export function useOver() {
  const crossing = useCrossingId();
  const refresh = useRefresh();
  const start = useStart();
  return useMutation({
    mutationFn: (body: Schemas["Act"]) =>
      take(client.POST("/api/crossings/{crossing}/addresses/act", { params: { path: { crossing } }, body })),
    onSuccess: () => {
      start.mutate({ kind: "route" });
      void refresh();
    },
  });
}

/** What is wrong with the rules. */
export function useSound() {
  const crossing = useCrossingId();
  return useQuery({
    queryKey: ["sound", crossing],
    queryFn: () => take(client.GET("/api/crossings/{crossing}/rules/sound", { params: { path: { crossing } } })),
  });
}

// --- the map written out -----------------------------------------------------------------------------

export function useServers() {
  const crossing = useCrossingId();
  return useQuery({
    queryKey: ["servers", crossing],
    queryFn: () => take(client.GET("/api/crossings/{crossing}/redirects", { params: { path: { crossing } } })),
  });
}

/** The files of the map for a server, and what that server cannot do of it. */
export function useMapAbout(server: string) {
  const crossing = useCrossingId();
  return useQuery({
    queryKey: ["map", crossing, server, "about"],
    enabled: !!server,
    queryFn: () =>
      take(
        client.GET("/api/crossings/{crossing}/redirects/{server}/about", { params: { path: { crossing, server } } }),
      ),
  });
}

export function useMapText(server: string, file: string, most: number) {
  const crossing = useCrossingId();
  return useQuery({
    queryKey: ["map", crossing, server, file],
    enabled: !!server && !!file,
    queryFn: () =>
      take(
        client.GET("/api/crossings/{crossing}/redirects/{server}", {
          params: { path: { crossing, server }, query: { file, most } },
          parseAs: "text",
        }) as Promise<{ data?: string; error?: unknown; response: Response }>,
      ),
  });
}

/** Note that the map was handed over for a server; ``onNoted`` gives it to the person. */
export function useHandOver(server: string, onNoted: () => void) {
  const crossing = useCrossingId();
  const refresh = useRefresh();
  return useMutation({
    mutationFn: () =>
      take(
        client.POST("/api/crossings/{crossing}/redirects/{server}/handed", { params: { path: { crossing, server } } }),
      ),
    onSuccess: () => (onNoted(), void refresh()),
  });
}
