/** What lifting asks of the server and has done there. */
import { keepPreviousData, useMutation, useQuery } from "@tanstack/react-query";
import { useDeferredValue, useEffect, useState } from "react";
import { client, take, type Schemas } from "../../api/client";
import { useCrossingId, useRefresh, useStart } from "../../shell/state";
import { useWalk } from "../../shores/walk";
import type { Field } from "./field";

/** Every page of a kind against every field. */
export function useGrid(kind: string, fate: string[]) {
  const crossing = useCrossingId();
  return useQuery({
    queryKey: ["grid", crossing, kind, fate],
    enabled: !!kind,
    queryFn: () =>
      take(
        client.GET("/api/crossings/{crossing}/coverage/{kind}", {
          params: { path: { crossing, kind }, query: { fate } },
        }),
      ),
  });
}

/** The pages of a kind, walked one by one; ``at``: the address in view. */
export function useKindPages(kind: string, fate: string[], at: string, onAt: (page: Schemas["SamplePage"]) => void) {
  const crossing = useCrossingId();
  const path = { crossing, kind };
  return useWalk({
    name: "pages",
    view: [crossing, kind, fate],
    at,
    idOf: (p: Schemas["SamplePage"]) => String(p.address),
    load: (offset, limit) =>
      kind
        ? take(
            client.GET("/api/crossings/{crossing}/kinds/{kind}/pages", {
              params: { path, query: { offset, limit, fate } },
            }),
          )
        : Promise.resolve({ total: 0, rows: [] }),
    find: async (address) =>
      kind
        ? (
            await take(
              client.GET("/api/crossings/{crossing}/kinds/{kind}/pages/position", {
                params: { path, query: { address: Number(address), fate } },
              }),
            )
          ).position
        : -1,
    onAt,
  });
}

export function useItem(item: number) {
  const crossing = useCrossingId();
  return useQuery({
    queryKey: ["item", crossing, item],
    enabled: !!item,
    queryFn: () => take(client.GET("/api/crossings/{crossing}/items/{item}", { params: { path: { crossing, item } } })),
  });
}

/** Ways to read a field from places that somebody clicked. */
export function useTeach(kind: string) {
  const crossing = useCrossingId();
  return useMutation({
    mutationFn: (wanted: Pick<Schemas["TeachIn"], "type" | "examples">) =>
      take(
        client.POST("/api/crossings/{crossing}/fields/teach", {
          params: { path: { crossing } },
          body: { kind, ...wanted },
        }),
      ),
  });
}

/** The treatments of a kind's fields as a person writes them, by the field's name. */
export function useTreatments(kind: string, revision: number | undefined) {
  const crossing = useCrossingId();
  const asked = useQuery({
    queryKey: ["field-texts", crossing, kind, revision],
    enabled: !!kind,
    queryFn: () =>
      take(client.GET("/api/crossings/{crossing}/kinds/{kind}/fields", { params: { path: { crossing, kind } } })),
  });
  return { of: (name: string) => asked.data?.find((f) => f.name === name)?.treat, error: asked.error };
}

/** The values a field would have on some pages, while it is written; without pages, on five of its kind. */
export function useTried(draft: Field | null, kind: string, addresses: number[]) {
  const crossing = useCrossingId();
  const wanted = useDeferredValue(JSON.stringify({ field: draft, kind, addresses }));
  const [asked, setAsked] = useState(wanted);
  useEffect(() => {
    const timer = window.setTimeout(() => setAsked(wanted), 150);
    return () => clearTimeout(timer);
  }, [wanted]);
  return useQuery({
    queryKey: ["try-field", crossing, asked],
    enabled: draft !== null && (draft.locators?.length ?? 0) > 0,
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) =>
      take(
        client.POST("/api/crossings/{crossing}/fields/try", {
          params: { path: { crossing } },
          body: JSON.parse(asked) as Schemas["TryIn"],
          signal,
        }),
      ),
  });
}

export type Covered = Schemas["CoveredRows"];

/** On how many pages of its kind a field is filled while it is written, counted a part at a time. */
export function useCovered(draft: Field | null, kind: string): { covered: Covered | null; error: unknown } {
  const crossing = useCrossingId();
  const wanted = useDeferredValue(JSON.stringify(draft));
  const [covered, setCovered] = useState<Covered | null>(null);
  const [error, setError] = useState<unknown>(null);
  useEffect(() => {
    const given = new AbortController();
    const field = JSON.parse(wanted) as Field | null;
    setError(null);
    setCovered(null);
    const count = async () => {
      const all: Covered = { of: 1, looked: 0, states: {}, fails: [] };
      while (all.looked < all.of && !given.signal.aborted) {
        const part = await take(
          client.POST("/api/crossings/{crossing}/fields/cover", {
            params: { path: { crossing } },
            body: { field: field!, kind, start: all.looked },
            signal: given.signal,
          }),
        );
        for (const [state, n] of Object.entries(part.states)) all.states[state] = (all.states[state] ?? 0) + n;
        all.fails = [...all.fails, ...part.fails].slice(0, 12);
        all.of = part.of;
        all.looked = part.looked;
        setCovered({ ...all });
      }
    };
    const timer = window.setTimeout(() => {
      if (field?.locators.length && kind)
        count().catch((problem: unknown) => given.signal.aborted || setError(problem));
    }, 500);
    return () => (clearTimeout(timer), given.abort());
  }, [crossing, wanted, kind]);
  return { covered, error };
}

/** Lift one page alone once more. */
export function useLiftPage() {
  const start = useStart();
  return useMutation({
    mutationFn: (address: number) => start.mutateAsync({ kind: "lift", only: address }),
    onSettled: useRefresh(),
  });
}

/** Set a value by hand, or take back what was set; decided anew after it. */
export function useHandValue(old: string, field: string, onDone: () => void) {
  const crossing = useCrossingId();
  const start = useStart();
  const change = useMutation({
    mutationFn: (wanted: { set?: unknown; drop?: boolean }) =>
      take(
        client.POST("/api/crossings/{crossing}/edits", {
          params: { path: { crossing } },
          body: wanted.drop
            ? {
                set: [],
                drop: [{ old, field, block: "", act: "set" }],
                text: `${field} of ${old} as it was found`,
              }
            : {
                set: [{ old, field, value: wanted.set, over: "", by: "", at: "", block: "", act: "set" }],
                drop: [],
                text: `${field} of ${old} set by hand`,
              },
        }),
      ),
    onSuccess: () => (onDone(), start.mutate({ kind: "route" })),
    onSettled: useRefresh(),
  });
  return { change, error: change.error ?? start.error };
}

/** What a change over many items would do, while it is written. */
export function useTriedBulk(wanted: Schemas["BulkIn"] | null) {
  const crossing = useCrossingId();
  const now = useDeferredValue(JSON.stringify(wanted));
  const [asked, setAsked] = useState(now);
  useEffect(() => {
    const timer = window.setTimeout(() => setAsked(now), 250);
    return () => clearTimeout(timer);
  }, [now]);
  return useQuery({
    queryKey: ["try-bulk", crossing, asked],
    enabled: asked !== "null",
    queryFn: ({ signal }) =>
      take(
        client.POST("/api/crossings/{crossing}/bulk/try", {
          params: { path: { crossing } },
          body: JSON.parse(asked) as Schemas["BulkIn"],
          signal,
        }),
      ),
  });
}

/** Make a change over many items; decided anew after it. */
export function useBulk(onDone: () => void) {
  const crossing = useCrossingId();
  const start = useStart();
  const refresh = useRefresh();
  return useMutation({
    mutationFn: (body: Schemas["BulkIn"]) =>
      take(client.POST("/api/crossings/{crossing}/bulk", { params: { path: { crossing } }, body })),
    onSuccess: () => (onDone(), start.mutate({ kind: "route" })),
    onSettled: refresh,
  });
}

export function useSpellings(kind: string, field: string) {
  const crossing = useCrossingId();
  return useQuery({
    queryKey: ["spellings", crossing, kind, field],
    enabled: !!kind && !!field,
    queryFn: () =>
      take(
        client.GET("/api/crossings/{crossing}/kinds/{kind}/fields/{field}/spellings", {
          params: { path: { crossing, kind, field } },
        }),
      ),
  });
}

/** What was changed by hand of an item's values. */
export function useHistory(item: number) {
  const crossing = useCrossingId();
  return useQuery({
    queryKey: ["history", crossing, item],
    enabled: !!item,
    queryFn: () =>
      take(client.GET("/api/crossings/{crossing}/items/{item}/history", { params: { path: { crossing, item } } })),
  });
}

/** The differences that the newest comparison found; ``job``: that comparison. */
export function useDifferences(field: string | null, job: number) {
  const crossing = useCrossingId();
  return useQuery({
    queryKey: ["differences", crossing, field, job],
    enabled: job > 0,
    queryFn: () =>
      take(
        client.GET("/api/crossings/{crossing}/differences", {
          params: { path: { crossing }, query: { limit: 300, ...(field === null ? {} : { field }) } },
        }),
      ),
  });
}
