/** A file handed over, read as records: what kinds it holds, which of them are taken for fields to read from. */
import { Button, TextField } from "@mui/material";
import { useState } from "react";
import { Go } from "../../shell/Go";
import { BUSY, off } from "../../shell/off";
import { count, many } from "../../shell/state";
import { Told } from "../../shores/Told";
import { useRecords } from "./listQueries";

interface Props {
  token: string;
  name: string;
}

export function Records({ token, name }: Props) {
  const [kinds, setKinds] = useState<string[] | null>(null);
  const [states, setStates] = useState<string[] | null>(null);
  const [since, setSince] = useState("");
  const [until, setUntil] = useState("");
  const day = (text: string) => (/^\d{4}-\d\d-\d\d$/.test(text) ? text : "");
  const wanted = {
    token,
    name,
    kinds: kinds ?? [],
    states: states ?? [],
    authors: [],
    since: day(since),
    until: day(until),
    columns: {},
  };
  const { all, meant, accept } = useRecords(wanted);
  const told = all.data;
  const every = told ? Object.keys(told.kinds) : [];
  const everyState = [...new Set(Object.values(told?.kinds ?? {}).flatMap((one) => Object.keys(one)))];
  const toggle = (had: string[] | null, all_: string[], one: string) => {
    const now = had ?? all_;
    return now.includes(one) ? now.filter((k) => k !== one) : [...now, one];
  };
  if (all.error) return <Told error={all.error} />;
  if (!told) return <p className="soft pad">Reading the records …</p>;
  const nothing = kinds?.length === 0 || states?.length === 0;
  const number = nothing ? 0 : (meant.data?.records ?? 0);
  return (
    <form
      className="form"
      aria-label="Records"
      onSubmit={(e) => {
        e.preventDefault();
        accept.mutate();
      }}
    >
      <b>
        {many(told.records, "record")}
        {told.first && `, ${told.first} to ${told.last}`}
      </b>
      {told.damaged && <div className="state odd">{told.damaged}</div>}
      <fieldset className="rulebox">
        <legend>of these kinds</legend>
        {Object.entries(told.kinds).map(([kind, of]) => (
          <label key={kind} className="check">
            <input
              type="checkbox"
              checked={(kinds ?? every).includes(kind)}
              onChange={() => setKinds(toggle(kinds, every, kind))}
            />{" "}
            <span>
              {kind}{" "}
              <small className="soft">
                {Object.entries(of)
                  .map(([state, n]) => `${state} ${count(n)}`)
                  .join(", ")}
              </small>
            </span>
          </label>
        ))}
      </fieldset>
      {everyState.length > 1 && (
        <fieldset className="rulebox">
          <legend>in these states</legend>
          {everyState.map((state) => (
            <label key={state} className="check">
              <input
                type="checkbox"
                checked={(states ?? everyState).includes(state)}
                onChange={() => setStates(toggle(states, everyState, state))}
              />{" "}
              {state}
            </label>
          ))}
        </fieldset>
      )}
      <div className="two">
        <TextField
          label="from (day)"
          placeholder={told.first}
          value={since}
          onChange={(e) => setSince(e.target.value)}
        />
        <TextField label="to (day)" placeholder={told.last} value={until} onChange={(e) => setUntil(e.target.value)} />
      </div>
      <div className="soft">
        {[
          ...Object.entries(told.terms).map(([sort, n]) => `${sort} ${count(n)}`),
          told.comments && many(told.comments, "comment"),
          told.files && many(told.files, "file"),
          told.without_address && `${count(told.without_address)} without an address`,
          told.doubles && `${count(told.doubles)} addresses several times`,
        ]
          .filter(Boolean)
          .join(" · ")}
      </div>
      <Told error={meant.error ?? accept.error} />
      <div className="acts">
        <Button
          type="submit"
          variant="contained"
          {...off(
            [nothing || !number, "None is meant."],
            [meant.isFetching, "They are being counted."],
            [accept.isPending, BUSY],
          )}
        >
          Take {count(number)} for fields to read from
        </Button>
      </div>
      {accept.data && (
        <p role="status">
          Taken; {count(accept.data.joined)} of {count(accept.data.records)} are of pages that are captured
          {accept.data.elsewhere > 0 &&
            `, ${count(accept.data.elsewhere)} ${accept.data.elsewhere === 1 ? "has" : "have"} an address on another host`}
          . A field reads them by “record (file)”.
          {accept.data.own > 0 && (
            <>
              {" "}
              {many(accept.data.own, "record")} without a captured page:{" "}
              <Go to="sort?tab=records">make a kind of them</Go>.
            </>
          )}
          {accept.data.unknown > 0 &&
            ` ${count(accept.data.unknown)} public ${accept.data.unknown === 1 ? "one lies" : "ones lie"} at an address that no survey has met: take the file as a list of addresses as well.`}
        </p>
      )}
    </form>
  );
}

/** The files that records were taken from. */
export function RecordSources() {
  const { sources, forget } = useRecords(null);
  if (!sources.data?.length) return <Told error={sources.error} />;
  return (
    <div className="pad" aria-label="Records taken">
      <Told error={forget.error} />
      {sources.data.map((one) => (
        <div key={one.source} className="acts">
          <b>{one.source}</b>
          <span className="soft">
            {many(one.records, "record")}, {count(one.joined)} of captured pages, {count(one.own)} without one
          </span>
          <span style={{ flex: 1 }} />
          <button className="linkish" onClick={() => forget.mutate(one.source)}>
            forget
          </button>
        </div>
      ))}
    </div>
  );
}
