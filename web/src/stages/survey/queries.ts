/** What the survey asks of the server and has done there; each of the side in view. */
import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useDeferredValue, useEffect, useMemo, useState } from "react";
import { client, take, type Schemas } from "../../api/client";
import { useCrossingId, useLink, usePlan, useRefresh, useStart, type Plan } from "../../shell/state";

export type SideName = "old" | "new";

/** The side in view, as the page's own address says. */
export const useSide = (): SideName => (useLink().get("side") === "new" ? "new" : "old");

/** Where a side begins: its start address and host, "" while nobody has said. */
export function useSite() {
  const side = useSide();
  const plan = usePlan().data?.plan;
  const start = (side === "old" ? plan?.old.start : (plan?.new?.start ?? plan?.interim)) ?? "";
  return { side, start, host: hostOf(start) };
}
export const hostOf = (url: string) => url.replace(/^https?:\/\//, "").split("/")[0] ?? "";

function useOf() {
  const crossing = useCrossingId();
  const side = useSide();
  return useMemo(() => ({ crossing, side, path: { crossing }, query: { side } }), [crossing, side]);
}

// --- surveys and what they changed -------------------------------------------------------------------

export function useRuns() {
  const { crossing, side, path, query } = useOf();
  return useQuery({
    queryKey: ["runs", crossing, side],
    queryFn: () => take(client.GET("/api/crossings/{crossing}/runs", { params: { path, query } })),
  });
}

// --- addresses --------------------------------------------------------------------------------------

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

// --- what is kept out, and the bounds ----------------------------------------------------------------

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
  const [settled, setSettled] = useState(text);
  useEffect(() => {
    const timer = window.setTimeout(() => setSettled(text), 350);
    return () => clearTimeout(timer);
  }, [text]);
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

/** Of what a survey by an older version has not noted. */
export const NOT_ASKED = "not asked yet: sound, or survey again";

// --- access ------------------------------------------------------------------------------------------

/** What gives access: what is held, what is given or forgotten, and whether it opens the start. */
export function useAccess(onGiven: () => void) {
  const { crossing, path, query } = useOf();
  const queries = useQueryClient();
  const keep = (rows: Schemas["SecretRow"][]) => queries.setQueryData(["access", crossing], rows);
  const held = useQuery({
    queryKey: ["access", crossing],
    queryFn: () => take(client.GET("/api/crossings/{crossing}/access", { params: { path } })),
  });
  const test = useMutation({
    mutationFn: () => take(client.POST("/api/crossings/{crossing}/access/try", { params: { path, query } })),
  });
  const give = useMutation({
    mutationFn: (body: Schemas["SecretIn"]) =>
      take(client.POST("/api/crossings/{crossing}/access", { params: { path }, body })),
    onSuccess: (rows) => {
      keep(rows);
      onGiven();
      test.mutate();
      void queries.invalidateQueries({ queryKey: ["runs", crossing] }); // what asked for it waits to be asked again
    },
  });
  const forget = useMutation({
    mutationFn: (row: Schemas["SecretRow"]) =>
      take(
        client.DELETE("/api/crossings/{crossing}/access", {
          params: { path, query: { host: row.host, kind: row.kind, name: row.name } },
        }),
      ),
    onSuccess: keep,
  });
  return { held, test, give, forget };
}

// --- soundings ---------------------------------------------------------------------------------------

export function useSoundings() {
  const { crossing, side, path, query } = useOf();
  return useQuery({
    queryKey: ["soundings", crossing, side],
    queryFn: () => take(client.GET("/api/crossings/{crossing}/soundings", { params: { path, query } })),
  });
}

export function usePresets() {
  const { crossing, path } = useOf();
  return useQuery({
    queryKey: ["presets", crossing],
    queryFn: () => take(client.GET("/api/crossings/{crossing}/presets", { params: { path } })),
  });
}

export function useFamilies(revision: number | undefined) {
  const { crossing, path } = useOf();
  return useQuery({
    queryKey: ["families", crossing, revision],
    queryFn: () => take(client.GET("/api/crossings/{crossing}/families", { params: { path } })),
  });
}

export function useFitness() {
  const { crossing, side, path, query } = useOf();
  return useQuery({
    queryKey: ["fitness", crossing, side],
    queryFn: () => take(client.GET("/api/crossings/{crossing}/fitness", { params: { path, query } })),
  });
}

export function useKeys(revision: number | undefined) {
  const { crossing, side, path, query } = useOf();
  return useQuery({
    queryKey: ["keys", crossing, side, revision],
    queryFn: () => take(client.GET("/api/crossings/{crossing}/keys", { params: { path, query } })),
  });
}

// --- lists handed over -------------------------------------------------------------------------------

export type Looked = Schemas["Looked"];
export type TableIn = Schemas["TableIn"];

export function useLists() {
  const { crossing, side, path, query } = useOf();
  const queries = useQueryClient();
  const key = ["lists", crossing, side];
  const held = useQuery({
    queryKey: key,
    queryFn: () => take(client.GET("/api/crossings/{crossing}/lists", { params: { path, query } })),
  });
  const look = useMutation({
    mutationFn: (content: Blob) =>
      take(
        client.PUT("/api/crossings/{crossing}/lists/file", {
          params: { path },
          body: content as never,
          bodySerializer: (body: unknown) => body as BodyInit,
          headers: { "Content-Type": "application/octet-stream" },
        }),
      ),
  });
  const forget = useMutation({
    mutationFn: (number: number) =>
      take(client.DELETE("/api/crossings/{crossing}/lists/{number}", { params: { path: { ...path, number }, query } })),
    onSuccess: (rows) => queries.setQueryData(key, rows),
  });
  return { held, look, forget };
}

export function useWeighed(reading: TableIn, ready: boolean) {
  const { crossing, side, path, query } = useOf();
  return useQuery({
    queryKey: ["weigh", crossing, side, reading],
    enabled: ready,
    retry: false,
    queryFn: () =>
      take(client.POST("/api/crossings/{crossing}/lists/weigh", { params: { path, query }, body: reading })),
  });
}

/** The ways in which what was handed over is taken; what is new is fetched at once. */
export function useTaking(onDone: () => void) {
  const { crossing, side, path, query } = useOf();
  const queries = useQueryClient();
  const refresh = useRefresh();
  const start = useStart();
  const done = () => {
    void queries.invalidateQueries({ queryKey: ["lists", crossing] });
    void refresh();
    onDone();
  };
  const fetched = () => (start.mutate({ kind: "survey", side }), done());
  const list = useMutation({
    mutationFn: (body: Schemas["Taking"]) =>
      take(client.POST("/api/crossings/{crossing}/lists/take", { params: { path, query }, body })),
    onSuccess: fetched,
  });
  const log = useMutation({
    mutationFn: (body: Schemas["LogTaking"]) =>
      take(client.POST("/api/crossings/{crossing}/lists/log", { params: { path }, body })),
    onSuccess: fetched,
  });
  const archive = useMutation({
    mutationFn: (token: string) =>
      take(client.POST("/api/crossings/{crossing}/lists/archive", { params: { path, query }, body: { token } })),
    onSuccess: done,
  });
  return { list, log, archive, start };
}

export function useBroughtBack(token: string, onDone: () => void) {
  const { crossing, path } = useOf();
  const refresh = useRefresh();
  const start = useStart();
  const asked = useQuery({
    queryKey: ["brought", crossing, token],
    retry: false,
    queryFn: () =>
      take(client.POST("/api/crossings/{crossing}/lists/decisions/weigh", { params: { path }, body: { token } })),
  });
  const accept = useMutation({
    mutationFn: (over: number[]) =>
      take(client.POST("/api/crossings/{crossing}/lists/decisions/take", { params: { path }, body: { token, over } })),
    onSuccess: () => {
      start.mutate({ kind: "route" });
      void refresh();
      onDone();
    },
  });
  return { asked, accept, start };
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

/** Records of a file handed over: what it holds, what is meant of it, and taking that; the files taken before. */
export function useRecords(wanted: Schemas["RecordsIn"] | null) {
  const { crossing, path } = useOf();
  const queries = useQueryClient();
  const refresh = useRefresh();
  const look = (body: Schemas["RecordsIn"]) =>
    take(client.POST("/api/crossings/{crossing}/records/look", { params: { path }, body }));
  const bare = wanted && { ...wanted, kinds: [], states: [], since: "", until: "" };
  const all = useQuery({
    queryKey: ["records-look", crossing, bare],
    enabled: !!bare,
    queryFn: () => look(bare!),
  });
  const meant = useQuery({
    queryKey: ["records-look", crossing, wanted],
    enabled: !!wanted && !!all.data,
    placeholderData: keepPreviousData,
    queryFn: () => look(wanted!),
  });
  const accept = useMutation({
    mutationFn: () => take(client.POST("/api/crossings/{crossing}/records", { params: { path }, body: wanted! })),
    onSettled: refresh,
  });
  const key = ["records", crossing];
  const sources = useQuery({
    queryKey: key,
    queryFn: () => take(client.GET("/api/crossings/{crossing}/records", { params: { path } })),
  });
  const forget = useMutation({
    mutationFn: (source: string) =>
      take(client.DELETE("/api/crossings/{crossing}/records", { params: { path, query: { source } } })),
    onSuccess: (rows) => (queries.setQueryData(key, rows), refresh()),
  });
  return { all, meant, accept, sources, forget };
}
