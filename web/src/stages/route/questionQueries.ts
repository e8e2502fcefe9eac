/** Questions to the owner of the old site, and their answers. */
import { useMutation, useQuery } from "@tanstack/react-query";
import { useCallback, useRef } from "react";
import { client, take as taken, type Schemas } from "../../api/client";
import { useCrossingId, useRefresh, useStart } from "../../shell/state";
import { useLists } from "../survey/listQueries";

export type QuestionRow = Schemas["QuestionRow"] & { id: number };

export function useQuestionRows(search: string, state: string) {
  const crossing = useCrossingId();
  const known = useRef(new Map<number, QuestionRow>());
  const load = useCallback(
    async (offset: number, limit: number, signal: AbortSignal) => {
      const found = await taken(
        client.GET("/api/crossings/{crossing}/questions", {
          params: { path: { crossing }, query: { offset, limit, search, state } },
          signal,
        }),
      );
      const rows = found.rows.map((r, n): QuestionRow => ({ ...r, id: offset + n + 1 }));
      for (const row of rows) known.current.set(row.id, row);
      return { total: found.total, rows };
    },
    [crossing, search, state],
  );
  return { view: [crossing, search, state], load, known: (row: number) => known.current.get(row) };
}

export function useQuestionCounts() {
  const crossing = useCrossingId();
  return useQuery({
    queryKey: ["questions", crossing],
    queryFn: () => taken(client.GET("/api/crossings/{crossing}/questions/counts", { params: { path: { crossing } } })),
  });
}

/** The owner's answer to some questions; or they are asked no longer. */
export function useAnswer() {
  const crossing = useCrossingId();
  const refresh = useRefresh();
  const start = useStart();
  const path = { crossing };
  const onSuccess = () => {
    start.mutate({ kind: "route" });
    void refresh();
  };
  const take = useMutation({
    mutationFn: (body: Schemas["AnswerIn"]) =>
      taken(client.POST("/api/crossings/{crossing}/questions/answer", { params: { path }, body })),
    onSuccess,
  });
  const withdraw = useMutation({
    mutationFn: (keys: string[]) =>
      taken(client.POST("/api/crossings/{crossing}/questions/withdraw", { params: { path }, body: { keys } })),
    onSuccess,
  });
  return { take, withdraw };
}

/** A sheet of answers, brought back. */
export function useQuestionSheet() {
  const crossing = useCrossingId();
  const refresh = useRefresh();
  const start = useStart();
  const { look } = useLists();
  return useMutation({
    mutationFn: async (file: Blob) => {
      const { token } = await look.mutateAsync(file);
      return taken(
        client.POST("/api/crossings/{crossing}/questions/sheet", { params: { path: { crossing } }, body: { token } }),
      );
    },
    onSuccess: (read) => {
      if (read.answered) start.mutate({ kind: "route" });
      void refresh();
    },
  });
}
