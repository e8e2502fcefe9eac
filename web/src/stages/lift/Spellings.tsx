/** Near-equal spellings of a field's values: those ticked become the one that is kept. */
import { TextField } from "@mui/material";
import { count } from "../../shell/state";
import { Told } from "../../shores/Told";
import { useSpellings } from "./queries";

interface Props {
  kind: string;
  field: string;
  table: Record<string, string>;
  onSet: (table: Record<string, string>) => void;
}

export function Spellings({ kind, field, table, onSet }: Props) {
  const found = useSpellings(kind, field);
  if (found.error) return <Told error={found.error} />;
  if (!found.data) return <p className="soft">Comparing …</p>;
  if (!found.data.length) return <p className="soft">No two values of {field} are nearly the same.</p>;
  const becomes = (group: { value: string }[]) =>
    group.map((one) => table[one.value]).find((to) => to !== undefined) ?? group[0]!.value;
  const set = (group: { value: string }[], chosen: string[], to: string) => {
    const next = { ...table };
    for (const { value } of group) delete next[value];
    for (const value of chosen) if (value !== to) next[value] = to;
    onSet(next);
  };
  return (
    <div className="spellings" role="group" aria-label="Near-equal spellings">
      {found.data.map((group) => {
        const to = becomes(group);
        const chosen = group.filter((one) => one.value in table).map((one) => one.value);
        return (
          <div key={group[0]!.value} className="rulebox">
            {group.map((one) => (
              <label key={one.value} className="check">
                <input
                  type="checkbox"
                  checked={chosen.includes(one.value) || (one.value === to && chosen.length > 0)}
                  disabled={one.value === to && chosen.length > 0}
                  onChange={(e) =>
                    set(group, e.target.checked ? [...chosen, one.value] : chosen.filter((v) => v !== one.value), to)
                  }
                />{" "}
                <span className="mono">{JSON.stringify(one.value).slice(1, -1)}</span>{" "}
                <small className="soft">{count(one.items)}</small>
              </label>
            ))}
            <div className="acts">
              <TextField label="become" value={to} onChange={(e) => set(group, chosen, e.target.value)} />
              <button
                type="button"
                className="linkish"
                onClick={() =>
                  set(
                    group,
                    group.map((one) => one.value),
                    to,
                  )
                }
              >
                all of them
              </button>
            </div>
          </div>
        );
      })}
    </div>
  );
}
