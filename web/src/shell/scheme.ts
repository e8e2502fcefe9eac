/** Light or dark: the reader's choice in this browser, else that of the system. */
import { useSyncExternalStore } from "react";
import type { Scheme } from "../theme";

const KEY = "grandferry.scheme";
const dark = matchMedia("(prefers-color-scheme: dark)");
const heard = new Set<() => void>();
dark.addEventListener("change", () => heard.forEach((f) => f()));

const now = (): Scheme => {
  const kept = localStorage.getItem(KEY);
  return kept === "dark" || kept === "light" ? kept : dark.matches ? "dark" : "light";
};

export function setScheme(scheme: Scheme) {
  localStorage.setItem(KEY, scheme);
  heard.forEach((f) => f());
}

export function useScheme(): Scheme {
  return useSyncExternalStore((f) => {
    heard.add(f);
    return () => heard.delete(f);
  }, now);
}
