/** The fields of a kind as the target has them: named, typed, put together, left out; what is lost is told before. */
import { MenuItem, TextField } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { client, take, type Schemas } from "../../api/client";
import { count, many, useCrossingId } from "../../shell/state";
import { Addr } from "../../shores/Addr";
import { Told } from "../../shores/Told";

type Mapped = Schemas["Mapped"];
const TYPES: [NonNullable<Mapped["type"]>, string][] = [
  ["same", "what ours is"],
  ["text", "plain text"],
  ["rich", "rich text"],
  ["number", "number"],
  ["date", "date"],
  ["yes_no", "yes or no"],
  ["list", "list"],
];
const WAIT = 400; // ms without a change, after which it is looked at

/** What a mapping would make of the items of a kind. */
function useLook(kind: string, rules: Mapped[]) {
  const crossing = useCrossingId();
  return useQuery({
    queryKey: ["mapping", crossing, kind, rules],
    enabled: !!kind && rules.length > 0,
    queryFn: async ({ signal }) => {
      await new Promise((done) => setTimeout(done, WAIT));
      if (signal.aborted) return [];
      return take(
        client.POST("/api/crossings/{crossing}/mapping/look", {
          params: { path: { crossing } },
          body: { kind, rules },
          signal,
        }),
      );
    },
  });
}

interface Props {
  kind: string; // whose items are looked at
  fields: string[];
  rules: Mapped[];
  onSet: (rules: Mapped[]) => void;
}

export function Mapping({ kind, fields, rules, onSet }: Props) {
  const usable = rules.filter((r) => r.sources.length > 0);
  const look = useLook(kind, usable);
  const said = (rule: Mapped) => look.data?.[usable.indexOf(rule)];
  const set = (n: number, rule: Partial<Mapped>) => onSet(rules.map((r, m) => (m === n ? { ...r, ...rule } : r)));
  const named = new Set(rules.flatMap((r) => r.sources));
  const left = fields.filter((f) => !named.has(f));
  return (
    <div className="mapping">
      <Told error={look.error} />
      {rules.map((rule, n) => (
        <div key={n} className="partbox">
          <div className="mapline">
            <TextField
              select
              label="from"
              value={rule.sources}
              onChange={(e) => set(n, { sources: e.target.value as unknown as string[] })}
              slotProps={{ select: { multiple: true } }}
            >
              {fields.map((name) => (
                <MenuItem key={name} value={name}>
                  {name}
                </MenuItem>
              ))}
            </TextField>
            <TextField
              label="is called there"
              placeholder="(left out)"
              value={rule.to ?? ""}
              onChange={(e) => set(n, { to: e.target.value.trim() })}
              slotProps={{ htmlInput: { className: "mono", spellCheck: false } }}
            />
            <TextField
              select
              label="and holds"
              value={rule.type ?? "same"}
              onChange={(e) => set(n, { type: e.target.value as Mapped["type"] })}
            >
              {TYPES.map(([value, label]) => (
                <MenuItem key={value} value={value}>
                  {label}
                </MenuItem>
              ))}
            </TextField>
            <button
              type="button"
              className="linkish"
              aria-label={`take the line of ${rule.sources.join(", ") || "nothing"} out`}
              onClick={() => onSet(rules.filter((_, m) => m !== n))}
            >
              ×
            </button>
          </div>
          <Effect said={said(rule)} to={rule.to ?? ""} />
        </div>
      ))}
      <div className="soft">
        <button
          type="button"
          className="linkish"
          onClick={() => onSet([...rules, { to: "", sources: left.slice(0, 1), type: "same", between: "\n\n" }])}
        >
          + field
        </button>{" "}
        {left.length > 0 && `under their own names: ${left.join(", ")}`}
      </div>
    </div>
  );
}

/** What a field of the target gets, and what is lost. */
function Effect({ said, to }: { said: Schemas["LookOut"] | undefined; to: string }) {
  if (!said) return null;
  const lost = Object.entries(said.lost).map(
    ([name, n]) => `${count(n)} ${name.replace(/^Styled /, "").toLowerCase()}`,
  );
  return (
    <div role="status">
      <span className="soft">
        {to
          ? `filled in ${count(said.filled)} of ${many(said.of, "item")}`
          : `left out, of ${many(said.filled, "item")}`}
      </span>{" "}
      {to && said.losing > 0 && (
        <span className="state odd">
          marks are lost in {many(said.losing, "item")}: {lost.join(", ")}
        </span>
      )}
      {to && said.misfits > 0 && (
        <div className="state odd">
          {many(said.misfits, "value")} do not fit and stay away:{" "}
          {said.examples.map((e) => (
            <span key={e.key} title={e.why}>
              <Addr of={e.key} /> “{e.says}” ({e.why}){" "}
            </span>
          ))}
        </div>
      )}
    </div>
  );
}
