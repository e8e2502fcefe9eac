/** The foot of a long list: how many rows match, how many are chosen, and what can be done with them. */
import type { ReactNode } from "react";
import { count } from "../../shell/state";
import { NONE, type Picked } from "./types";

interface Props {
  total: number;
  picked: Picked;
  chosen: number;
  onPicked?: (picked: Picked) => void;
  singly?: boolean;
  copied: string;
  onCopy?: () => void;
  onMenu: (at: HTMLElement) => void;
  children?: ReactNode;
}

export function ListFoot({ total, picked, chosen, onPicked, singly, copied, onCopy, onMenu, children }: Props) {
  return (
    <div className="count">
      <span>
        <b data-testid="total">{count(total)}</b> {total === 1 ? "row" : "rows"}
      </span>
      {onPicked && chosen > 0 && (
        <span>
          <b>{count(chosen)}</b> chosen
        </span>
      )}
      {onPicked && !singly && total > 0 && (
        <button className="linkish" onClick={() => onPicked(picked.all ? NONE : { all: true, ids: new Set() })}>
          {picked.all ? "choose none" : "choose all that match"}
        </button>
      )}
      {onPicked && !picked.all && picked.ids.size > 0 && (
        <button className="linkish" onClick={() => onPicked(NONE)}>
          choose none
        </button>
      )}
      {onCopy && total > 0 && (
        <button className="linkish" onClick={onCopy}>
          {copied || "copy as text"}
        </button>
      )}
      <button className="linkish" aria-haspopup="menu" onClick={(e) => onMenu(e.currentTarget)}>
        columns
      </button>
      {children}
    </div>
  );
}
