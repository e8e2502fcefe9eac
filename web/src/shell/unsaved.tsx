/** Unsaved changes: seen in the frame, and leaving asks once. */
import { Button, Dialog, DialogActions, DialogContent, DialogTitle } from "@mui/material";
import { useEffect, useSyncExternalStore } from "react";
import { useBlocker } from "react-router";

const open = new Map<string, string>();
const heard = new Set<() => void>();
let said = "";
const tell = () => {
  said = [...open.values()].join(", ");
  heard.forEach((f) => f());
};

/** Mark something as not saved while ``what`` is not empty. */
export function useUnsaved(id: string, what: string) {
  useEffect(() => {
    if (!what) return;
    open.set(id, what);
    tell();
    return () => {
      open.delete(id);
      tell();
    };
  }, [id, what]);
}

/** What was not saved is saved now: nothing is asked on the way out. */
export function allSaved() {
  open.clear();
  tell();
}

export function useUnsavedText(): string {
  return useSyncExternalStore(
    (f) => {
      heard.add(f);
      return () => heard.delete(f);
    },
    () => said,
  );
}

/** Asks once before a view with unsaved changes is left, or the tab closed. */
export function AskBeforeLeaving() {
  const text = useUnsavedText();
  const blocker = useBlocker(
    ({ currentLocation, nextLocation }) => said !== "" && currentLocation.pathname !== nextLocation.pathname,
  );
  useEffect(() => {
    if (!text) return;
    const ask = (event: BeforeUnloadEvent) => event.preventDefault();
    addEventListener("beforeunload", ask);
    return () => removeEventListener("beforeunload", ask);
  }, [text]);
  if (blocker.state !== "blocked") return null;
  return (
    <Dialog open onClose={() => blocker.reset()} aria-labelledby="leave-title">
      <DialogTitle id="leave-title">Not saved: {text}</DialogTitle>
      <DialogContent>If you go now, this is lost.</DialogContent>
      <DialogActions>
        <Button onClick={() => blocker.proceed()}>Go without saving</Button>
        <Button variant="contained" autoFocus onClick={() => blocker.reset()}>
          Stay here
        </Button>
      </DialogActions>
    </Dialog>
  );
}
