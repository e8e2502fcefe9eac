/** The rows of a long list in windows of a hundred from the server, and the columns as they are placed. */
import { keepPreviousData, useQueries, useQuery } from "@tanstack/react-query";
import { useCallback, useMemo } from "react";
import { PICK, type Column, type Placed } from "./types";

const BLOCK = 100;
export const blockOf = (n: number) => Math.floor(n / BLOCK);

export type Load<R> = (offset: number, limit: number, signal: AbortSignal) => Promise<{ total: number; rows: R[] }>;

/** The rows from the first to the last in sight; ``at`` gives one of them, when it is there already. */
export function useRows<R>(name: string, key: string, load: Load<R>, first: number, last: number) {
  const head = useQuery({
    queryKey: ["rows", name, key, 0],
    queryFn: ({ signal }) => load(0, BLOCK, signal),
    placeholderData: keepPreviousData,
  });
  const blocks = useMemo(
    () => Array.from({ length: blockOf(last) - blockOf(first) + 1 }, (_, n) => blockOf(first) + n),
    [first, last],
  );
  const got = useQueries({
    queries: blocks.map((b) => ({
      queryKey: ["rows", name, key, b],
      queryFn: ({ signal }: { signal: AbortSignal }) => load(b * BLOCK, BLOCK, signal),
      placeholderData: keepPreviousData,
    })),
    combine: (results) => results.map((r) => r.data?.rows),
  });
  const at = useCallback(
    (index: number): R | undefined => got[blockOf(index) - (blocks[0] ?? 0)]?.[index % BLOCK],
    [got, blocks],
  );
  return { head, total: head.data?.total ?? 0, at };
}

/** The columns that are shown, each with its place; those that grow share what is left of the width. */
export function usePlaced<R>(columns: Column<R>[], hidden: string[], width: number, pick: boolean) {
  return useMemo(() => {
    const shown = columns.filter((c) => !hidden.includes(c.id));
    const before = pick ? PICK : 0;
    const fixed = shown.reduce((sum, c) => sum + c.width, before);
    const growing = shown.filter((c) => c.grow).length;
    const extra = Math.max(0, width - fixed - 2) / Math.max(1, growing);
    let left = before;
    const placed = shown.map((c): Placed<R> => {
      const w = c.width + (c.grow ? extra : 0);
      const made = { ...c, left, w };
      left += w;
      return made;
    });
    return { placed, across: left };
  }, [columns, hidden, width, pick]);
}
