/** What all views share: the crossing, its account, plan and jobs; saving the plan; deep links. */
import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useMemo, type MouseEvent } from "react";
import { useLocation, useParams, useSearchParams } from "react-router";
import { client, take, type Schemas } from "../api/client";
import { headed } from "./headed";

export type Plan = Schemas["PlanDocument"]["plan"];
export type Job = Schemas["JobOut"];
export type JobKind = Job["kind"];

export const useCrossingId = () => Number(useParams().crossing);

export function useCrossing() {
  const id = useCrossingId();
  return useQuery({
    queryKey: ["crossing", id],
    queryFn: () => take(client.GET("/api/crossings/{crossing}", { params: { path: { crossing: id } } })),
    placeholderData: keepPreviousData,
  });
}

export function usePlan() {
  const id = useCrossingId();
  return useQuery({
    queryKey: ["plan", id],
    queryFn: () => take(client.GET("/api/crossings/{crossing}/plan", { params: { path: { crossing: id } } })),
  });
}

export function useJobs() {
  const id = useCrossingId();
  return useQuery({
    queryKey: ["jobs", id],
    queryFn: () => take(client.GET("/api/jobs", { params: { query: { crossing: id } } })),
  });
}

/** Everything of a crossing is asked for anew. */
export function useRefresh() {
  const queries = useQueryClient();
  return useCallback(() => queries.invalidateQueries(), [queries]);
}

export function useStart() {
  const id = useCrossingId();
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (wanted: {
      kind: Schemas["JobIn"]["kind"];
      pages?: number;
      dry?: boolean;
      over?: boolean;
      trial?: string;
      against?: string;
      failed?: boolean;
      only?: number;
      all?: boolean;
      again?: boolean;
      side?: Job["side"];
    }) =>
      take(
        client.POST("/api/jobs", {
          body: {
            crossing: id,
            dry: false,
            over: false,
            trial: "",
            against: "",
            failed: false,
            only: 0,
            all: false,
            again: false,
            pages: 0,
            side: "old",
            ...wanted,
          },
        }),
      ),
    onSettled: () => queries.invalidateQueries({ queryKey: ["jobs", id] }),
  });
}

/** Change the plan: the function changes a copy of it, the text says what was done. Decides anew when asked. */
export function useChangePlan() {
  const id = useCrossingId();
  const queries = useQueryClient();
  const start = useStart();
  return useMutation({
    mutationFn: async (wanted: {
      text: string;
      change: (plan: Plan) => void;
      decide?: boolean;
      from?: Schemas["PlanDocument"];
    }) => {
      const known =
        wanted.from ??
        (await take(client.GET("/api/crossings/{crossing}/plan", { params: { path: { crossing: id } } })));
      const plan = structuredClone(known.plan);
      wanted.change(plan);
      const made = await take(
        client.PUT("/api/crossings/{crossing}/plan", {
          params: { path: { crossing: id } },
          body: { plan, revision: known.revision, text: wanted.text },
        }),
      );
      if (wanted.decide) start.mutate({ kind: "route" });
      return made;
    },
    onSuccess: (made) => queries.setQueryData(["plan", id], made),
    onSettled: () => queries.invalidateQueries({ predicate: (q) => q.queryKey[0] !== "preview" }),
  });
}

export function useSetPairs() {
  const id = useCrossingId();
  const queries = useQueryClient();
  const start = useStart();
  return useMutation({
    mutationFn: async (wanted: { set?: Schemas["Pair"][]; drop?: string[]; text: string }) => {
      const made = await take(
        client.POST("/api/crossings/{crossing}/pairs", {
          params: { path: { crossing: id } },
          body: { set: wanted.set ?? [], drop: wanted.drop ?? [], text: wanted.text },
        }),
      );
      start.mutate({ kind: "route" });
      return made;
    },
    onSettled: () => queries.invalidateQueries(),
  });
}

/** One value in the page's own address; set without losing the others. */
export function useLink() {
  const { pathname } = useLocation();
  const [params, setParams] = useSearchParams();
  const set = useCallback(
    (values: Record<string, string | string[] | number | null | undefined>, replace = false) =>
      headed() === pathname &&
      setParams(
        (had) => {
          const next = new URLSearchParams(had);
          for (const [name, value] of Object.entries(values)) {
            next.delete(name);
            if (Array.isArray(value)) value.forEach((v) => next.append(name, v));
            else if (value !== null && value !== undefined && value !== "") next.set(name, String(value));
          }
          return next;
        },
        { replace },
      ),
    [setParams, pathname],
  );
  return useMemo(
    () => ({ params, set, get: (name: string) => params.get(name) ?? "", all: (name: string) => params.getAll(name) }),
    [params, set],
  );
}

export const count = (n: number | undefined | null) => (n ?? 0).toLocaleString("en-GB");
export const many = (n: number, one: string, more = `${one}s`) => `${count(n)} ${n === 1 ? one : more}`;
export function size(bytes: number): string {
  if (bytes < 1000) return `${bytes} B`;
  if (bytes < 1e6) return `${Math.round(bytes / 1000)} kB`;
  return `${(bytes / 1e6).toFixed(1)} MB`;
}
export function when(iso: string): string {
  if (!iso) return "never";
  const date = new Date(iso);
  return date.toLocaleString("en-GB", { day: "numeric", month: "short", hour: "2-digit", minute: "2-digit" });
}
export const clock = (iso: string) => new Date(iso).toLocaleTimeString("en-GB");
export const share = (done: number, all: number) =>
  all ? `${((100 * done) / all).toFixed(done === all ? 0 : 2)} %` : "–";

/** A click on a link that is followed here; one with Ctrl, Shift or another button is the browser's: a new tab. */
export function followed(e: MouseEvent, go: () => void) {
  if (e.defaultPrevented || e.button !== 0 || e.ctrlKey || e.metaKey || e.shiftKey || e.altKey) return;
  e.preventDefault();
  go();
}
