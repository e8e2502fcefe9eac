/** What the plan as it is now would change: against what was lifted, an earlier plan, or that of another crossing. */
import { Button, MenuItem, TextField } from "@mui/material";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { RUNS, off } from "../../shell/off";
import { count, many, useJobs, useLink, usePlan, useStart } from "../../shell/state";
import { useChanges, useCrossings } from "../../shell/queries";
import { Addr } from "../../shores/Addr";
import { useLive } from "../../shores/Run";
import { Told } from "../../shores/Told";
import { shown } from "./field";
import { useDifferences } from "./queries";

interface Figures {
  against: string;
  pages: number;
  differ: number;
  values: number;
  fields: Record<string, number>;
  only_before: number;
  only_after: number;
}

export function Differences({ onClose }: { onClose: () => void }) {
  const [against, setAgainst] = useState("");
  const [field, setField] = useState<string | null>(null);
  const start = useStart();
  const jobs = useJobs();
  const live = useLive(["compare"]);
  const last = (jobs.data ?? []).find((j) => j.kind === "compare" && j.state === "done");
  const since = !!last && (jobs.data ?? []).some((j) => ["sort", "lift", "update"].includes(j.kind) && j.id > last.id);
  const figures = last?.result as unknown as Figures | undefined;
  const found = useDifferences(field, last?.id ?? 0);
  const changes = useChanges();
  const others = useCrossings();
  const plan = usePlan();
  const bodies = new Set(
    (plan.data?.plan.kinds ?? []).flatMap((k) =>
      (k.fields ?? []).filter((x) => x.type === "blocks").map((x) => x.name),
    ),
  );
  const link = useLink();
  const earlier = (changes.data ?? []).filter((c) => c.of_plan).slice(0, 12);
  const rows = found.data?.rows ?? [];
  const names: [string, string][] = [
    ["", "what was lifted"],
    ...earlier.map((c): [string, string] => [`change:${c.id}`, `the plan before: ${c.text}`.slice(0, 80)]),
    ...(others.data ?? []).map((c): [string, string] => [`crossing:${c.id}`, `the plan of ${c.name}`]),
  ];
  const sides = figures?.against === "" ? ["lifted", "would be"] : ["by the other plan", "by the plan now"];
  return (
    <section className="panel" style={{ flex: "1 1 0", minHeight: 190 }} aria-label="Differences">
      <h2>
        Compare with
        <TextField
          select
          aria-label="with"
          value={against}
          onChange={(e) => setAgainst(e.target.value)}
          sx={{ width: 280, flex: "none" }}
          slotProps={{ select: { displayEmpty: true } }}
        >
          {names.map(([value, label]) => (
            <MenuItem key={value} value={value}>
              {label}
            </MenuItem>
          ))}
        </TextField>
        <Button
          sx={{ flex: "none" }}
          variant="contained"
          onClick={() => start.mutate({ kind: "compare", against })}
          {...off([!!live, RUNS])}
        >
          Compare
        </Button>
        <span className="sp" />
        {figures?.against === "" && figures.values > 0 && !since && (
          <Button
            sx={{ flex: "none" }}
            variant="outlined"
            onClick={() => start.mutate({ kind: "lift" })}
            {...off([!!live, RUNS])}
          >
            Lift what changed
          </Button>
        )}
        <button className="linkish" style={{ flex: "none" }} onClick={onClose}>
          to the coverage <kbd>W</kbd>
        </button>
      </h2>
      {since && !live && figures?.against === "" && (
        <p className="soft pad">Lifted or sorted since: compare again to see what differs now.</p>
      )}
      <Told error={found.error ?? start.error ?? changes.error ?? others.error} />
      {figures && (
        <div className="filters" style={{ padding: "0 12px 6px", alignItems: "center" }}>
          {!live && (
            <small data-testid="differ">
              {count(figures.values)} {figures.values === 1 ? "value differs" : "values differ"} on{" "}
              {count(figures.differ)} of {many(figures.pages, "page")}
              {figures.only_before + figures.only_after > 0 &&
                ` · ${many(figures.only_before, "word")} only ${sides[0]}, ${many(figures.only_after, "word")} only now`}
            </small>
          )}
          {[
            [null, "all"] as const,
            ...Object.keys(figures.fields).map((f) => [f, f] as const),
            ["", "words"] as const,
          ].map(([value, label]) => (
            <button
              key={label}
              className={`chip${field === value ? " on" : ""}`}
              aria-pressed={field === value}
              onClick={() => setField(value)}
            >
              {label} {value && <b>{count(figures.fields[value])}</b>}
            </button>
          ))}
        </div>
      )}
      <div className="scroll" tabIndex={0} role="region" aria-label="What differs">
        {figures && !rows.length && !found.isPending && <p className="soft pad">Nothing differs.</p>}
        {rows.length > 0 && (
          <table className="plain">
            <thead>
              <tr>
                <th>page</th>
                <th>field</th>
                <th>{sides[0]}</th>
                <th>{sides[1]}</th>
              </tr>
            </thead>
            <tbody>
              {rows.map((row) => (
                <tr key={`${row.address} ${row.field}`}>
                  <td>
                    <button className="linkish" onClick={() => link.set({ page: row.address })}>
                      <Addr of={row.key} />
                    </button>
                  </td>
                  <td>{row.field || "words"}</td>
                  <td>{side(row, "before", bodies)}</td>
                  <td>{side(row, "after", bodies)}</td>
                </tr>
              ))}
            </tbody>
          </table>
        )}
        {(found.data?.total ?? 0) > rows.length && (
          <p className="soft pad">
            The first {count(rows.length)} of {count(found.data?.total)}.
          </p>
        )}
      </div>
    </section>
  );
}

/** One side of a difference: the value, or the words that only this side carries, and the kind where that differs. */
function side(row: Schemas["DifferenceOut"], which: "before" | "after", bodies: Set<string>) {
  const value = row[which];
  const kind = row.kind_before === row.kind_after ? "" : row[`kind_${which}`] || "no kind";
  if (!row.field)
    return (
      <>
        {kind && <b>{kind} </b>}
        {count(row[`only_${which}`])} more {value ? <span className="soft">{shown(value)}</span> : null}
      </>
    );
  if (value === null) return <span className="state empty">nothing</span>;
  // of a body the hash of its words is compared
  if (bodies.has(row.field.split(" ")[0] ?? ""))
    return which === "after" && row.before !== null ? "another body" : "a body";
  return shown(value).slice(0, 300);
}
