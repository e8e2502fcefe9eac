/** What the survey asks of the server and has done there: sides, surveys, access, soundings. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useMemo } from "react";
import { client, take, type Schemas } from "../../api/client";
import { useCrossingId, useLink, usePlan } from "../../shell/state";

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

/** The crossing and the side in view, as the address of a question wants them. */
export function useOf() {
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

/** Of what a survey by an older version has not noted. */
export const NOT_ASKED = "not asked yet: sound, or survey again";

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
