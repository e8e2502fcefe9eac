/** Records of which no page is captured (drafts above all), by kind and state; a kind made of those that are ticked. */
import { Button } from "@mui/material";
import { useState } from "react";
import { BUSY, off } from "../../shell/off";
import { count, many, useChangePlan, usePlan, useStart } from "../../shell/state";
import { Told } from "../../shores/Told";
import { KindName } from "./KindName";
import { nameOf } from "./kind";
import { useAlone, useKindOfRecords } from "./queries";

export function OfRecords() {
  const alone = useAlone();
  const [kind, setKind] = useState("");
  const rows = alone.data ?? [];
  const kinds = [...new Set(rows.map((row) => row.kind))];
  return (
    <div className="scroll pad">
      <Told error={alone.error} />
      <p className="soft">
        What a file handed over holds and the old site does not show: each has a page of its own, made of what the file
        says. A rule takes it only where it asks for the record. Addresses lead to the public ones alone.
      </p>
      {kinds.map((name) => {
        const of = rows.filter((row) => row.kind === name);
        return (
          <div key={name} className="card">
            <span className="top">
              <b>{name}</b>
              <em>{count(of.reduce((sum, row) => sum + row.records, 0))}</em>
            </span>
            <ul className="why">
              {of.map((row) => (
                <li key={row.state}>
                  {row.state} {count(row.records)}
                  <span className="soft">
                    {row.sorted === row.records
                      ? " · all in a kind"
                      : row.sorted
                        ? ` · ${count(row.sorted)} in a kind`
                        : " · in no kind"}
                  </span>
                </li>
              ))}
            </ul>
            {kind === name ? (
              <KindOfThem kind={name} rows={of} onDone={() => setKind("")} />
            ) : (
              <button type="button" className="linkish" onClick={() => setKind(name)}>
                make a kind of them
              </button>
            )}
          </div>
        );
      })}
    </div>
  );
}

interface Props {
  kind: string;
  rows: { state: string; records: number; sorted: number }[];
  onDone: () => void;
}

function KindOfThem({ kind, rows, onDone }: Props) {
  const plan = usePlan();
  const save = useChangePlan();
  const start = useStart();
  const proposed = useKindOfRecords();
  const [label, setLabel] = useState(kind);
  const [states, setStates] = useState(rows.filter((row) => row.sorted < row.records).map((row) => row.state));
  const name = nameOf(label);
  const taken = (plan.data?.plan.kinds ?? []).some((one) => one.name === name);
  const problem = !name ? "A name begins with a letter." : taken ? `There is a kind “${name}” already.` : "";
  const number = rows.filter((row) => states.includes(row.state)).reduce((sum, row) => sum + row.records, 0);
  const make = async () => {
    const found = await proposed.mutateAsync({ name, kind, states });
    save.mutate(
      {
        text: `kind ${label} made of ${many(number, "record")} “${kind}”`.slice(0, 300),
        change: (draft) => void (draft.kinds ??= []).push({ ...found, label } as (typeof draft.kinds)[number]),
      },
      { onSuccess: () => (start.mutate({ kind: "sort" }), onDone()) },
    );
  };
  return (
    <form
      className="naming"
      aria-label="Kind of records"
      onKeyDown={(e) => e.key === "Escape" && (e.stopPropagation(), onDone())}
      onSubmit={(e) => {
        e.preventDefault();
        if (!problem && number) make().catch(() => undefined); // told below
      }}
    >
      <KindName label={label} problem={problem} onSet={setLabel} />
      <Button
        type="submit"
        variant="contained"
        {...off(
          [save.isPending || proposed.isPending, BUSY],
          [!!problem, problem],
          [!number, "Tick the states that are meant."],
        )}
      >
        Make it of {count(number)}
      </Button>
      <div className="ways">
        {rows.map(({ state, records }) => (
          <label key={state} className="check">
            <input
              type="checkbox"
              checked={states.includes(state)}
              onChange={(e) => setStates(e.target.checked ? [...states, state] : states.filter((one) => one !== state))}
            />{" "}
            {state} <small className="soft">{count(records)}</small>
          </label>
        ))}
      </div>
      <Told error={proposed.error ?? save.error ?? start.error} />
    </form>
  );
}
