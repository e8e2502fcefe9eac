/** Links to other views of the crossing: real ones, so that Ctrl opens them in a new tab. */
import type { ReactNode } from "react";
import { Link, useNavigate } from "react-router";
import { useCrossingId } from "./state";

/** Where a view was left last, also before the application was closed; a view named with a query is meant as it is. */
const left = (id: number, view: string) => localStorage.getItem(`grandferry.left.${id}.${view}`) ?? "";

/** The same of one tab of a view, on one side. */
export const leftIn = (id: number, view: string, side: string, tab: string) => left(id, `${view}.${side}.${tab}`);

/** Keep where a view is left. Another workspace has crossings of the same numbers: what was left there is forgotten,
 * told apart by when the crossing was begun. */
export function leave(id: number, begun: string, view: string, search: string) {
  const at = new URLSearchParams(search);
  if (localStorage.getItem(`grandferry.begun.${id}`) !== begun) {
    Object.keys(localStorage)
      .filter((key) => key.startsWith(`grandferry.left.${id}.`))
      .forEach((key) => localStorage.removeItem(key));
    localStorage.setItem(`grandferry.begun.${id}`, begun);
  }
  localStorage.setItem(`grandferry.left.${id}.${view}`, search);
  localStorage.setItem(`grandferry.left.${id}.${view}.${at.get("side") ?? ""}.${at.get("tab") ?? ""}`, search);
}

export function usePlaceOf() {
  const id = useCrossingId();
  return (view: string) => (view.includes("?") ? `/c/${id}/${view}` : `/c/${id}/${view}${left(id, view)}`);
}

export function useGo() {
  const navigate = useNavigate();
  const place = usePlaceOf();
  return (view: string) => navigate(place(view));
}

interface Props {
  to: string;
  children: ReactNode;
  className?: string;
  title?: string;
}

export function Go({ to, children, className = "linkish", title }: Props) {
  const place = usePlaceOf();
  return (
    <Link to={place(to)} className={className} title={title}>
      {children}
    </Link>
  );
}
