/** Keys of the view in sight. A key typed into a field is the field's own. */
import { useEffect, useRef, useState } from "react";

export interface Key {
  key: string;
  says: string;
  run: () => void;
}

interface Held {
  current: Key[];
}

const stack: { nth: number; held: Held }[] = [];
let drawn = 0;

const typing = (target: EventTarget | null) =>
  target instanceof HTMLElement &&
  (target.isContentEditable ||
    /^(TEXTAREA|SELECT)$/.test(target.tagName) ||
    (target instanceof HTMLInputElement && !/^(checkbox|radio|button)$/.test(target.type)));

const inDialog = (target: EventTarget | null) =>
  target instanceof Element && target.closest("[role=dialog],[role=menu],[role=listbox]") !== null;

function heed(event: KeyboardEvent) {
  if (event.defaultPrevented || event.altKey || event.metaKey) return;
  const name = event.ctrlKey
    ? `Ctrl+${event.key.toLowerCase()}`
    : event.key.length === 1
      ? event.key.toLowerCase()
      : event.key;
  if (!event.ctrlKey && (typing(event.target) || inDialog(event.target))) {
    // out of the field, so that keys are the view's again
    if (name === "Escape" && !inDialog(event.target)) (event.target as HTMLElement).blur();
    return;
  }
  if (
    name === "Enter" &&
    event.target instanceof HTMLElement &&
    event.target.closest("a,button,[role=button],[role=menuitem],[role=option]")
  )
    return;
  for (let n = stack.length - 1; n >= 0; n--) {
    const found = stack[n]?.held.current.find((k) => k.key === name);
    if (found) {
      event.preventDefault();
      found.run();
      return;
    }
  }
}

addEventListener("keydown", heed);

/** Keys that hold while the component is shown; the innermost component's come first: a component is drawn before
 * what is in it, whereas effects run the other way round. */
export function useKeys(keys: Key[]) {
  const held = useRef(keys);
  const [nth] = useState(() => ++drawn);
  useEffect(() => {
    held.current = keys;
  });
  useEffect(() => {
    const one = { nth, held };
    stack.push(one);
    stack.sort((a, b) => a.nth - b.nth);
    return () => {
      stack.splice(stack.indexOf(one), 1);
    };
  }, [nth]);
}

/** All keys that hold now, each once. */
export function keysNow(): Key[] {
  const seen = new Set<string>();
  return [...stack]
    .reverse()
    .flatMap((s) => s.held.current)
    .filter((k) => !seen.has(k.key) && seen.add(k.key));
}
