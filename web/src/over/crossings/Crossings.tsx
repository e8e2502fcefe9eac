/** The start: all crossings with their fate bars, and a new one from an address that is asked at once. */
import { Button, TextField } from "@mui/material";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { Link, useNavigate } from "react-router";
import { client, take } from "../../api/client";
import { Head } from "../../shell/Head";
import { useKeys } from "../../shell/keys";
import { count, many, when } from "../../shell/state";
import { allSaved, useUnsaved } from "../../shell/unsaved";
import { FateBar } from "../../shores/Fate";
import { Told } from "../../shores/Told";
import { Many } from "./Many";

/** How a crossing goes on whose start is none yet. */
const WHAT_THEN: Record<string, string> = {
  unreachable:
    "If it is switched off for good, its pages can come from an archive (WARC): make the crossing, and hand the archive over under Lists & logs.",
  "wants a login":
    "Make the crossing, and give its key under Scope & manners, where it is tried before anything is fetched.",
  "not there": "Another start can be given under Scope & manners.",
  "goes in a circle": "Another start can be given under Scope & manners.",
};

function NewCrossing() {
  const [address, setAddress] = useState("");
  const [name, setName] = useState("");
  const [several, setSeveral] = useState(false);
  const before = useRef("");
  const navigate = useNavigate();
  const queries = useQueryClient();
  const asked = useMutation({
    mutationFn: (text: string) => take(client.POST("/api/start", { body: { address: text } })),
    onSuccess: (found) => {
      const proposed = found.title || found.address.replace(/^https?:\/\/|\/$/g, "");
      setName((had) => (!had || had === before.current ? proposed : had)); // what a person wrote stays
      before.current = proposed;
    },
  });
  const make = useMutation({
    mutationFn: () =>
      take(client.POST("/api/crossings", { body: { name: name.trim(), start: asked.data?.address ?? address } })),
    onSuccess: (made) => {
      void queries.invalidateQueries({ queryKey: ["crossings"] });
      allSaved();
      void navigate(`/c/${made.id}/survey?tab=scope`);
    },
  });
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
            if (found) make.mutate();
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
              disabled={!address.trim() || asked.isPending}
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
                <Button variant="contained" type="submit" disabled={!name.trim() || make.isPending}>
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

export default function Crossings() {
  const all = useQuery({ queryKey: ["crossings"], queryFn: () => take(client.GET("/api/crossings")) });
  const list = all.data ?? [];
  useKeys([{ key: "n", says: "new crossing", run: () => document.getElementById("new-address")?.focus() }]);
  return (
    <div className="frame bare">
      <Head />
      <main>
        <div className="title">
          <h1>Crossings</h1>
          <span className="aside">{list.length ? `${count(list.length)} in this workspace` : ""}</span>
        </div>
        <Told error={all.error} />
        <div className="shores">
          <section className="panel" style={{ flex: 1 }} aria-label="All crossings">
            <h2>
              All crossings <small>pale is planned, solid is proven by a check</small>
            </h2>
            <div className="scroll">
              {list.map((crossing) => {
                const open = crossing.account.find((f) => f.fate === "unaccounted")?.planned ?? 0;
                const planned = crossing.account.reduce(
                  (sum, f) => sum + (f.fate === "unaccounted" ? 0 : f.planned),
                  0,
                );
                const done = crossing.addresses > 0 && !open && !planned;
                return (
                  <Link
                    key={crossing.id}
                    to={`/c/${crossing.id}/manifest`}
                    className="todo"
                    style={{ color: "inherit", textDecoration: "none", flexDirection: "column", gap: 4 }}
                  >
                    <span style={{ display: "flex", gap: 10, width: "100%", alignItems: "baseline" }}>
                      <b
                        style={{
                          width: "auto",
                          overflow: "hidden",
                          textOverflow: "ellipsis",
                          whiteSpace: "nowrap",
                          flex: "0 1 auto",
                        }}
                      >
                        {crossing.name}
                      </b>
                      <span className="soft nowrap">
                        {many(crossing.addresses, "old address", "old addresses")} · begun {when(crossing.created)}
                      </span>
                      <span className="sp" />
                      <span
                        className="nowrap"
                        style={{
                          color: open ? "var(--orange)" : done ? "var(--good)" : "var(--soft)",
                          fontWeight: 600,
                        }}
                      >
                        {crossing.addresses === 0
                          ? "not surveyed"
                          : done
                            ? "all proven"
                            : open
                              ? `${count(open)} unaccounted`
                              : `${count(planned)} planned`}
                      </span>
                    </span>
                    {crossing.addresses > 0 && (
                      <span style={{ display: "flex", width: "100%", height: 32 }}>
                        <FateBar account={crossing.account} />
                      </span>
                    )}
                  </Link>
                );
              })}
              {!list.length && !all.isPending && (
                <div className="empty">
                  <b>No crossing yet.</b>
                  Paste the address of the old site at the right. It is asked at once, and nothing is fetched beyond
                  that page before you say so.
                </div>
              )}
            </div>
          </section>
          <NewCrossing />
        </div>
      </main>
    </div>
  );
}
