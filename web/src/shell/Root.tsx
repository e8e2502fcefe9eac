/** Around everything: the event stream of the tab, words about the connection, the name, leaving. */
import { Button, Dialog, DialogActions, DialogContent, DialogTitle, TextField } from "@mui/material";
import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { isRouteErrorResponse, Link, Outlet, useRouteError } from "react-router";
import { myName, setMyName } from "../api/client";
import { eventStream, type FerryEvent, type StreamState } from "../api/events";
import { AskBeforeLeaving } from "./unsaved";
import { off } from "./off";

export const NAME_ASKED = "ferry:name";

/** Lists are asked for anew at most once a second while work goes on; the account and the jobs four times. */
function useStream(): [StreamState, string] {
  const queries = useQueryClient();
  const [state, setState] = useState<StreamState>("open");
  const [word, setWord] = useState("");
  const slow = useRef(0);
  const quick = useRef(0);
  const was = useRef<StreamState>("open");
  useEffect(() => {
    const later = (timer: typeof slow, ms: number, run: () => void) => {
      if (!timer.current)
        timer.current = window.setTimeout(() => {
          timer.current = 0;
          run();
        }, ms);
    };
    const heard = (kind: string, event: FerryEvent) => {
      if (kind === "worker") {
        setWord(event.text);
        window.setTimeout(() => setWord(""), 8000);
      }
      later(quick, 250, () => {
        for (const key of ["jobs", "crossing", "crossings"]) void queries.invalidateQueries({ queryKey: [key] });
      });
      const over = kind === "job";
      if (over) void queries.invalidateQueries({ queryKey: ["plan"] }); // a draft, or a survey, may have changed it
      later(slow, over ? 60 : 1000, () => {
        void queries.invalidateQueries({
          predicate: (q) => !["jobs", "crossing", "crossings", "plan", "preview"].includes(String(q.queryKey[0])),
        });
      });
    };
    return eventStream(["job", "progress", "log", "warning", "worker"], heard, (next) => {
      // back after a gap: what was missed is asked for
      if (next === "open" && was.current === "waiting") void queries.invalidateQueries();
      was.current = next;
      setState(next);
    });
  }, [queries]);
  return [state, word];
}

function AskName() {
  const [open, setOpen] = useState(() => myName() === "");
  const [name, setName] = useState(myName());
  useEffect(() => {
    const ask = () => {
      setName(myName());
      setOpen(true);
    };
    addEventListener(NAME_ASKED, ask);
    return () => removeEventListener(NAME_ASKED, ask);
  }, []);
  const keep = () => {
    if (!name.trim()) return;
    setMyName(name.trim());
    setOpen(false);
  };
  return (
    <Dialog open={open} aria-labelledby="name-title" onClose={() => myName() && setOpen(false)}>
      <DialogTitle id="name-title">Who is working here?</DialogTitle>
      <DialogContent>
        <p style={{ marginTop: 0 }}>
          Your name stands beside what you decide. It is kept in this browser; there are no accounts.
        </p>
        <TextField
          label="Your name"
          value={name}
          autoFocus
          onChange={(e) => setName(e.target.value)}
          onKeyDown={(e) => e.key === "Enter" && keep()}
          sx={{ mt: 1 }}
        />
      </DialogContent>
      <DialogActions>
        <Button variant="contained" {...off([!name.trim(), "Give it a name first."])} onClick={keep}>
          Go on
        </Button>
      </DialogActions>
    </Dialog>
  );
}

export function Root() {
  const [state, word] = useStream();
  return (
    <>
      <Outlet />
      <AskName />
      <AskBeforeLeaving />
      {state === "waiting" && (
        <div className="gone" role="status">
          The server does not answer. Work that runs goes on without this page; it is asked again.
        </div>
      )}
      {state === "open" && word && (
        <div className="gone" role="status">
          {word}
        </div>
      )}
    </>
  );
}

export function Lost() {
  const error = useRouteError();
  const text = isRouteErrorResponse(error) ? `${error.status}` : error instanceof Error ? error.message : "";
  return (
    <div className="empty">
      <b>{text ? "This view could not be shown." : "There is no such view."}</b>
      {text && <p>{text}</p>}
      <Link to="/">To all crossings</Link>
    </div>
  );
}
