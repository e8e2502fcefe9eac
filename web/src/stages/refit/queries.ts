/** What refitting asks of the server. */
import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useMemo } from "react";
import { client, take, type Schemas } from "../../api/client";
import { useCrossingId } from "../../shell/state";
import { useWalk } from "../../shores/walk";

/** Where the words and things of all bodies went. */
export function useTotals() {
  const crossing = useCrossingId();
  return useQuery({
    queryKey: ["refit", crossing],
    queryFn: () => take(client.GET("/api/crossings/{crossing}/refit", { params: { path: { crossing } } })),
  });
}

/** How many bodies there are for addresses of these fates. */
export function useBodyCount(fate: string[]) {
  const crossing = useCrossingId();
  return useQuery({
    queryKey: ["bodies-count", crossing, fate],
    queryFn: () =>
      take(
        client.GET("/api/crossings/{crossing}/bodies", { params: { path: { crossing }, query: { limit: 1, fate } } }),
      ),
  });
}

export function useItemCount(enabled: boolean) {
  const crossing = useCrossingId();
  return useQuery({
    queryKey: ["items-count", crossing],
    enabled,
    queryFn: () =>
      take(client.GET("/api/crossings/{crossing}/items", { params: { path: { crossing }, query: { limit: 1 } } })),
  });
}

const named = (r: { item: number; field: string }) => `${r.item} ${r.field}`;

/** All bodies, walked one by one, those that lost most first. */
export function useBodies(
  fate: string[],
  construct: string,
  item: string,
  field: string,
  onAt: (row: Schemas["BodyRow"]) => void,
) {
  const crossing = useCrossingId();
  const path = { crossing };
  return useWalk({
    name: "bodies",
    view: [crossing, fate, construct],
    at: item && `${item} ${field}`,
    idOf: (r: Schemas["BodyRow"]) => (field ? named(r) : `${r.item} `),
    load: (offset, limit) =>
      take(
        client.GET("/api/crossings/{crossing}/bodies", { params: { path, query: { offset, limit, fate, construct } } }),
      ),
    find: async (at) => {
      const [wanted, of = ""] = at.split(" ");
      return (
        await take(
          client.GET("/api/crossings/{crossing}/bodies/position", {
            params: { path, query: { item: Number(wanted), field: of, fate, construct } },
          }),
        )
      ).position;
    },
    onAt,
  });
}

export function useBody(row: Schemas["BodyRow"] | undefined) {
  const crossing = useCrossingId();
  return useQuery({
    queryKey: ["body", crossing, row?.item, row?.field],
    enabled: !!row,
    queryFn: () =>
      take(
        client.GET("/api/crossings/{crossing}/bodies/{item}/{field}", {
          params: { path: { crossing, item: row?.item ?? 0, field: row?.field ?? "" } },
        }),
      ),
  });
}

export type LossRow = Schemas["BodyRow"] & { id: number };

/** The bodies as a list, in windows. */
export function useLossRows(fates: string[], search: string, order: string) {
  const crossing = useCrossingId();
  const fate = fates.join("|");
  const query = useMemo(() => ({ fate: fate ? fate.split("|") : [], search, order }), [fate, search, order]);
  const load = useCallback(
    async (offset: number, limit: number, signal: AbortSignal) => {
      const found = await take(
        client.GET("/api/crossings/{crossing}/bodies", {
          params: { path: { crossing }, query: { ...query, offset, limit } },
          signal,
        }),
      );
      return { total: found.total, rows: found.rows.map((r, n): LossRow => ({ ...r, id: offset + n + 1 })) };
    },
    [crossing, query],
  );
  return { view: [crossing, query], load };
}

export function useConstructs() {
  const crossing = useCrossingId();
  return useQuery({
    queryKey: ["constructs", crossing],
    queryFn: () => take(client.GET("/api/crossings/{crossing}/constructs", { params: { path: { crossing } } })),
  });
}

/** What a step changes in one body, before it is saved (or what the one at a place does). */
export function useTriedStep(step: Schemas["Step"] | null, at: number | null, item: number) {
  const crossing = useCrossingId();
  return useQuery({
    queryKey: ["tried step", crossing, step, at, item],
    enabled: step !== null,
    retry: false,
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) =>
      take(
        client.POST("/api/crossings/{crossing}/steps/tried", {
          params: { path: { crossing } },
          body: { step: step as Schemas["Step"], at, item },
          signal,
        }),
      ),
  });
}

export function useForms() {
  const crossing = useCrossingId();
  return useQuery({
    queryKey: ["forms", crossing],
    queryFn: () => take(client.GET("/api/crossings/{crossing}/forms", { params: { path: { crossing } } })),
  });
}

/** How Markdown says what it has no mark for. */
export function useChoices() {
  const crossing = useCrossingId();
  return useQuery({
    queryKey: ["markdown", crossing],
    queryFn: () => take(client.GET("/api/crossings/{crossing}/markdown", { params: { path: { crossing } } })),
  });
}

/** The steps in order, with what each took at the last refit. */
export function useSteps() {
  const crossing = useCrossingId();
  return useQuery({
    queryKey: ["steps", crossing],
    queryFn: () => take(client.GET("/api/crossings/{crossing}/steps", { params: { path: { crossing } } })),
  });
}

/** What a step takes of all pages. */
export function usePart(place: number) {
  const crossing = useCrossingId();
  return useQuery({
    queryKey: ["steps", crossing, place],
    queryFn: () =>
      take(client.GET("/api/crossings/{crossing}/steps/{place}", { params: { path: { crossing, place } } })),
  });
}

/** Where a step finds its part on one page. */
export function useOnPage(place: number, address: number) {
  const crossing = useCrossingId();
  return useQuery({
    queryKey: ["steps", crossing, place, "page", address],
    enabled: address > 0,
    queryFn: () =>
      take(
        client.GET("/api/crossings/{crossing}/steps/{place}/pages/{address}", {
          params: { path: { crossing, place, address } },
        }),
      ),
  });
}

/** The blocks of a body with what lies over each by hand. */
export function useBlocks(item: number, field: string) {
  const crossing = useCrossingId();
  return useQuery({
    queryKey: ["body", crossing, item, field, "blocks"],
    queryFn: () =>
      take(
        client.GET("/api/crossings/{crossing}/bodies/{item}/{field}/blocks", {
          params: { path: { crossing, item, field } },
        }),
      ),
  });
}

/** Something laid over a block by hand, or (``gone``) taken from it. */
export interface BlockChange {
  block: string;
  over: string;
  act: "set" | "drop" | "after";
  value?: string;
  gone?: boolean;
}

export function useChangeBlocks(old: string, field: string) {
  const crossing = useCrossingId();
  const queries = useQueryClient();
  return useMutation({
    mutationFn: ({ says, changes }: { says: string; changes: BlockChange[] }) =>
      take(
        client.POST("/api/crossings/{crossing}/edits", {
          params: { path: { crossing } },
          body: {
            set: changes
              .filter((one) => !one.gone)
              .map(({ block, over, act, value }) => ({
                old,
                field,
                block,
                over,
                act,
                value: act === "drop" ? null : (value ?? ""),
                by: "",
                at: "",
              })),
            drop: changes.filter((one) => one.gone).map(({ block, act }) => ({ old, field, block, act })),
            text: `${says} in ${field} of ${old}`,
          },
        }),
      ),
    onSettled: () => queries.invalidateQueries(),
  });
}
