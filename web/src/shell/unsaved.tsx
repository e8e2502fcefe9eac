/** Unsaved changes: seen in the frame, and leaving asks once. */
import { Button, Dialog, DialogActions, DialogContent, DialogTitle } from "@mui/material";
import { useEffect, useSyncExternalStore } from "react";
import { useBlocker } from "react-router";

const open = new Map<string, { what: string; within: string[] }>();
const heard = new Set<() => void>();
let said = "";
let waits: (() => void) | null = null; // what is done when a person says so
const tell = () => {
  said = [...open.values()].map((one) => one.what).join(", ");
  heard.forEach((f) => f());
};

/** Mark something as not saved while ``what`` is not empty. It is lost with the view, and when one of the values
 * ``within`` the page's address becomes another (words with blanks between). */
export function useUnsaved(id: string, what: string, within = "") {
  useEffect(() => {
    if (!what) return;
    open.set(id, { what, within: ["tab", "side", ...within.split(" ")] });
    tell();
    return () => {
      open.delete(id);
      tell();
    };
  }, [id, what, within]);
}

/** Do what would lose something unsaved; a person is asked first. */
export function leaving(go: () => void) {
  if (said === "") return go();
  waits = go;
  tell();
}

/** What was not saved is saved now: nothing is asked on the way out. */
export function allSaved() {
  open.clear();
  tell();
}

function listen(f: () => void) {
  heard.add(f);
  return () => heard.delete(f);
}

export function useUnsavedText(): string {
  return useSyncExternalStore(listen, () => said);
}

/** Asks once before a view with unsaved changes is left, or the tab closed. */
export function AskBeforeLeaving() {
  const text = useUnsavedText();
  const asked = useSyncExternalStore(listen, () => waits);
  const blocker = useBlocker(({ currentLocation: from, nextLocation: to }) => {
    if (said === "" || from.pathname !== to.pathname) return said !== "";
    const [a, b] = [new URLSearchParams(from.search), new URLSearchParams(to.search)];
    return [...open.values()].some((one) => one.within.some((name) => a.get(name) !== b.get(name)));
  });
  const stay = () => {
    waits = null;
    tell();
    if (blocker.state === "blocked") blocker.reset();
  };
  const go = () => {
    const then = waits;
    waits = null;
    allSaved();
    if (blocker.state === "blocked") blocker.proceed();
    then?.();
  };
  useEffect(() => {
    if (!text) return;
    const ask = (event: BeforeUnloadEvent) => event.preventDefault();
    addEventListener("beforeunload", ask);
    return () => removeEventListener("beforeunload", ask);
  }, [text]);
  const blocked = blocker.state === "blocked" || asked !== null;
  useEffect(() => {
    if (blocked && !text) go(); // what was being saved when one left is saved now
  });
  if (!blocked || !text) return null;
  return (
    <Dialog open onClose={stay} aria-labelledby="leave-title">
      <DialogTitle id="leave-title">Not saved: {text}</DialogTitle>
      <DialogContent>If you go now, this is lost.</DialogContent>
      <DialogActions>
        <Button onClick={go}>Go without saving</Button>
        <Button variant="contained" autoFocus onClick={stay}>
          Stay here
        </Button>
      </DialogActions>
    </Dialog>
  );
}
