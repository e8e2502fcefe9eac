/** The columns of a long list, and which of its rows are chosen. */
import type { ReactNode } from "react";

export interface Column<R> {
  id: string;
  label: string;
  width: number;
  grow?: boolean;
  look?: "num" | "mono" | "b" | "mid";
  sort?: string;
  off?: boolean;
  cell: (row: R) => ReactNode;
}

export interface Picked {
  all: boolean;
  ids: Set<number>;
}
export const NONE: Picked = { all: false, ids: new Set() };

export interface Placed<R> extends Column<R> {
  left: number;
  w: number;
}

export const ROW = 28; // px
export const PICK = 30; // px of the column that rows are chosen in
