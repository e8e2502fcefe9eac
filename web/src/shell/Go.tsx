/** Links to other views of the crossing: real ones, so that Ctrl opens them in a new tab. */
import type { ReactNode } from "react";
import { Link, useNavigate } from "react-router";
import { useCrossingId } from "./state";

/** Where a view was left last; a view named with a query is meant as it is. */
const left = (id: number, view: string) => sessionStorage.getItem(`grandferry.left.${id}.${view}`) ?? "";
export const leave = (id: number, view: string, search: string) =>
  sessionStorage.setItem(`grandferry.left.${id}.${view}`, search);

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
