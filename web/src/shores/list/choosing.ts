/** Choosing rows of a long list one by one, or from the last one to this one. */
import { useRef } from "react";
import type { Picked } from "./types";

export function useChoosing<R extends { id: number }>(
  picked: Picked,
  onPicked: ((picked: Picked) => void) | undefined,
  rowAt: (index: number) => R | undefined,
) {
  const pickFrom = useRef(-1);
  return (index: number, many: boolean) => {
    const row = rowAt(index);
    if (!row || !onPicked) return;
    const ids = new Set(picked.ids);
    if (many && pickFrom.current >= 0) {
      const [a, b] = [Math.min(pickFrom.current, index), Math.max(pickFrom.current, index)];
      for (let n = a; n <= b; n++) {
        const r = rowAt(n);
        if (r) {
          if (picked.all) ids.delete(r.id);
          else ids.add(r.id);
        }
      }
    } else if (ids.has(row.id)) ids.delete(row.id);
    else ids.add(row.id);
    pickFrom.current = index;
    onPicked({ all: picked.all, ids });
  };
}
