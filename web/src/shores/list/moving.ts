/** Moving through a long list: where the cursor stands, the open row found again, a row told as soon as it is there. */
import type { Virtualizer } from "@tanstack/react-virtual";
import { useCallback, useEffect, useRef, useState } from "react";

interface Options<R> {
  at?: number; // the open row
  key: string; // of the list as it is asked for
  total: number;
  rowAt: (index: number) => R | undefined;
  virtual: Virtualizer<HTMLDivElement, Element>;
  find?: (id: number) => Promise<number>;
  onAt?: (row: R) => void;
  onOpen?: (row: R) => void;
}

export function useMoving<R extends { id: number }>(options: Options<R>) {
  const { at, key, total, rowAt, virtual, find, onAt, onOpen } = options;
  const [cursor, setCursor] = useState(-1);

  // the open row is shown where it stands, also when the page is opened by its address
  const sought = useRef<string>("");
  useEffect(() => {
    const want = `${at ?? ""}:${key}`;
    if (!at || !total || sought.current === want) return; // without rows there is nowhere to scroll to
    sought.current = want;
    const near = virtual.getVirtualItems().find((v) => rowAt(v.index)?.id === at);
    if (near) setCursor(near.index);
    else if (find)
      void find(at).then(
        (position) => {
          if (position >= 0) {
            setCursor(position);
            virtual.scrollToIndex(position, { align: "center" });
          }
        },
        () => undefined,
      );
  }, [at, key, find, virtual, rowAt, total]);

  // a row that was moved to is told as soon as it is there: its window may still be on the way
  const moved = useRef(-1);
  const openIt = useRef(false); // it was opened before it was there
  const arrive = useCallback(
    (index: number) => {
      const row = rowAt(index);
      if (!row || moved.current !== index) return;
      moved.current = -1;
      sought.current = `${row.id}:${key}`;
      onAt?.(row);
      if (openIt.current) onOpen?.(row);
      openIt.current = false;
    },
    [rowAt, key, onAt, onOpen],
  );
  useEffect(() => {
    if (moved.current >= 0) arrive(moved.current);
  }, [arrive]);

  const move = (to: number) => {
    if (!total) return;
    const index = Math.max(0, Math.min(total - 1, to));
    setCursor(index);
    virtual.scrollToIndex(index, { align: "auto" });
    moved.current = index;
    openIt.current = false;
    arrive(index);
  };
  const open = () => {
    const row = rowAt(cursor);
    if (row) onOpen?.(row);
    else openIt.current = moved.current >= 0;
  };
  return { cursor, move, open };
}
