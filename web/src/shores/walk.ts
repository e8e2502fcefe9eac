/**
 * One thing after the other through a list of any length, in the list's order. The thing in sight is named in the page's
 * address; where it stands is asked of the server, and its neighbours come in windows, so that no list is too long.
 */
import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef } from "react";

const BLOCK = 100;

interface Options<R> {
  name: string;
  view: unknown[]; // what the list depends on
  at: string; // the thing in sight, "" for the first
  idOf: (row: R) => string;
  load: (offset: number, limit: number) => Promise<{ total: number; rows: R[] }>;
  find: (id: string) => Promise<number>; // where a thing stands, -1 when it is not in the list
  onAt: (row: R) => void;
}

export interface Walk<R> {
  row: R | undefined;
  index: number;
  total: number;
  step: (by: number) => void;
  ready: boolean;
  error: unknown;
}

export function useWalk<R>({ name, view, at, idOf, load, find, onAt }: Options<R>): Walk<R> {
  const queries = useQueryClient();
  const key = JSON.stringify(view);
  const window = (block: number) => ({
    queryKey: ["walk", name, key, block],
    queryFn: () => load(block * BLOCK, BLOCK),
  });
  const placeKey = (id: string) => ["walk-place", name, key, id];
  const place = useQuery({ queryKey: placeKey(at), enabled: at !== "", queryFn: () => find(at) });
  const index = Math.max(0, at === "" ? 0 : (place.data ?? -1));
  const known = at === "" || place.isSuccess || place.isError;
  const block = Math.floor(index / BLOCK);
  const got = useQuery({ ...window(block), enabled: known, placeholderData: keepPreviousData });
  const rows = got.isPlaceholderData || !known ? [] : (got.data?.rows ?? []);
  // while order and place are asked anew, the thing itself is what is kept in sight
  const row = rows.find((r) => idOf(r) === at) ?? (place.isFetching && at !== "" ? undefined : rows[index % BLOCK]);
  const total = got.data?.total ?? 0;
  const wanted = useRef<number | null>(null); // where a step leads, until the page's address says so
  const reached = useRef({ id: "", index: -1 }); // where the last of our own steps led
  useEffect(() => {
    // a step taken while the one before it was still on its way to the page's address is not forgotten
    if (at !== reached.current.id || wanted.current === reached.current.index) wanted.current = null;
  }, [at, key]);
  const step = (by: number) => {
    const to = Math.max(0, Math.min(total - 1, (wanted.current ?? index) + by));
    wanted.current = to === index ? null : to; // a step back over one on its way takes that one back
    if (to === index) return;
    void queries.fetchQuery(window(Math.floor(to / BLOCK))).then(
      (found) => {
        if (wanted.current !== to) return; // another step came after it
        const next = found.rows[to % BLOCK];
        if (!next || idOf(next) === at) return void (wanted.current = null);
        queries.setQueryData(placeKey(idOf(next)), to);
        reached.current = { id: idOf(next), index: to };
        onAt(next);
      },
      () => (wanted.current = null),
    );
  };
  return {
    row,
    index,
    total,
    step,
    ready: known && got.isSuccess && !got.isPlaceholderData,
    error: place.error ?? got.error,
  };
}
