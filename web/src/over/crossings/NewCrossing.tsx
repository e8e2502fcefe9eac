/** A new crossing from an address that is asked at once. */
import { Button, TextField } from "@mui/material";
import { useRef, useState } from "react";
import { useNavigate } from "react-router";
import { many } from "../../shell/state";
import { useUnsaved } from "../../shell/unsaved";
import { Told } from "../../shores/Told";
import { Many } from "./Many";
import { useAskStart, useMake } from "./queries";
import { BUSY, off } from "../../shell/off";

/** How a crossing goes on whose start is none yet. */
const WHAT_THEN: Record<string, string> = {
  unreachable:
    "If it is switched off for good, its pages can come from an archive (WARC): make the crossing, and hand the archive over under Lists & logs.",
  "wants a login":
    "Make the crossing, and give its key under Scope & manners, where it is tried before anything is fetched.",
  "not there": "Another start can be given under Scope & manners.",
  "goes in a circle": "Another start can be given under Scope & manners.",
};

export function NewCrossing() {
  const [address, setAddress] = useState("");
  const [name, setName] = useState("");
  const [several, setSeveral] = useState(false);
  const before = useRef("");
  const navigate = useNavigate();
  const asked = useAskStart((found) => {
    const proposed = found.title || found.address.replace(/^https?:\/\/|\/$/g, "");
    setName((had) => (!had || had === before.current ? proposed : had)); // what a person wrote stays
    before.current = proposed;
  });
  const make = useMake((made) => void navigate(`/c/${made.id}/survey?tab=scope`));
  useUnsaved("new-crossing", address && asked.data && !make.isSuccess ? "the new crossing" : "");
  const ask = () => {
    make.reset();
    if (address.trim()) asked.mutate(address);
  };
  const found = asked.data;
  return (
    <section className="panel" style={{ flex: several ? "0 0 640px" : "0 0 420px" }} aria-label="New crossing">
      <h2>
        New crossing
        <span className="sp" />
        {!several && (
          <button type="button" className="linkish" onClick={() => setSeveral(true)}>
            many at once
          </button>
        )}
      </h2>
      {several ? (
        <Many onDone={() => setSeveral(false)} />
      ) : (
        <form
          className="form"
          onSubmit={(e) => {
            e.preventDefault();
            if (found) make.mutate({ name: name.trim(), start: found.address });
            else ask();
          }}
        >
          <div className="two">
            <TextField
              label="Address of the old site"
              value={address}
              placeholder="www.old-site.example"
              onChange={(e) => {
                setAddress(e.target.value);
                asked.reset();
              }}
              onPaste={(e) => {
                const text = e.clipboardData.getData("text");
                if (!address && text) window.setTimeout(() => asked.mutate(text), 0);
              }}
              id="new-address"
            />
            <Button
              variant={found ? "outlined" : "contained"}
              onClick={ask}
              {...off([!address.trim(), "Write an address first."], [asked.isPending, BUSY])}
            >
              {asked.isPending ? "Asking…" : "Ask it"}
            </Button>
          </div>
          <Told error={asked.error} />
          {found && (
            <>
              {found.fault ? (
                <div className="told" role="alert">
                  {found.fault} {WHAT_THEN[found.kind]}
                </div>
              ) : (
                <dl className="facts" style={{ margin: 0 }} aria-live="polite">
                  <dt>Answers</dt>
                  <dd>
                    {found.status} at <span className="mono">{found.address}</span>
                  </dd>
                  {found.repaired && (
                    <>
                      <dt>Repaired</dt>
                      <dd>{found.repaired}</dd>
                    </>
                  )}
                  {found.hops.length > 0 && (
                    <>
                      <dt>Redirected</dt>
                      <dd>{many(found.hops.length, "time")}, to the address above</dd>
                    </>
                  )}
                  <dt>Title</dt>
                  <dd>{found.title || "none"}</dd>
                  <dt>Made by</dt>
                  <dd>{found.generator || "it does not say"}</dd>
                  <dt>Encoding</dt>
                  <dd>{found.encoding || "–"}</dd>
                </dl>
              )}
              <TextField label="Name of the crossing" value={name} onChange={(e) => setName(e.target.value)} />
              <Told error={make.error} />
              <div className="acts">
                <Button
                  variant="contained"
                  type="submit"
                  {...off([!name.trim(), "Give it a name first."], [make.isPending, BUSY])}
                >
                  {found.fault ? "Make the crossing all the same" : "Make the crossing"}
                </Button>
              </div>
            </>
          )}
        </form>
      )}
    </section>
  );
}
