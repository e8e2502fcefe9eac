/** Lists, logs, archives and files of records that were handed over. */
import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, take, type Schemas } from "../../api/client";
import { useRefresh, useStart } from "../../shell/state";
import { useOf } from "./queries";

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

/** The ways in which what was handed over is taken; what is new is fetched at once, where that is wanted of a list. */
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
    mutationFn: ({ body }: { body: Schemas["Taking"]; fetch: boolean }) =>
      take(client.POST("/api/crossings/{crossing}/lists/take", { params: { path, query }, body })),
    onSuccess: (_, { fetch }) => (fetch ? fetched() : done()),
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
