/** How new addresses of a kind are made readable, and what its items would get, before it is saved. */
import { MenuItem, TextField } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { client, take } from "../../api/client";
import { useSettled } from "../../shell/settled";
import { count, many, useCrossingId } from "../../shell/state";
import { Addr } from "../../shores/Addr";
import { Told } from "../../shores/Told";
import { clear, type Kind } from "./kind";

type Slugs = Kind["slugs"];

function useMade(kind: Kind) {
  const crossing = useCrossingId();
  const text = JSON.stringify({ ...kind, rules: kind.rules.map(clear) });
  const asked = useSettled(text, 300);
  return useQuery({
    queryKey: ["made", crossing, asked],
    enabled: !!kind.address && !!kind.name,
    queryFn: ({ signal }) =>
      take(
        client.POST("/api/crossings/{crossing}/addresses/made", {
          params: { path: { crossing } },
          body: JSON.parse(asked) as Kind,
          signal,
        }),
      ),
  });
}

export function NewAddress({ kind, onSet }: { kind: Kind; onSet: (slugs: Slugs) => void }) {
  const slugs: Slugs = kind.slugs;
  const made = useMade(kind);
  if (!kind.address || kind.items === "none") return null;
  return (
    <fieldset className="plain-set" aria-label="How addresses are made readable">
      <div className="three">
        <TextField
          select
          label="Letters"
          value={slugs.script}
          onChange={(e) => onSet({ ...slugs, script: e.target.value as Slugs["script"] })}
        >
          <MenuItem value="own">as they are</MenuItem>
          <MenuItem value="latin">in Latin letters</MenuItem>
        </TextField>
        <TextField
          label="Words left out"
          placeholder="the of and"
          value={slugs.without.join(" ")}
          onChange={(e) => onSet({ ...slugs, without: e.target.value.split(/[\s,]/) })}
          onBlur={() => onSet({ ...slugs, without: slugs.without.filter(Boolean) })}
        />
        <TextField
          label="Longest"
          type="number"
          value={slugs.longest}
          onChange={(e) => onSet({ ...slugs, longest: Number(e.target.value) })}
          slotProps={{ htmlInput: { min: 8, max: 200 } }}
        />
      </div>
      <Told error={made.error} />
      {made.data && made.data.items > 0 && (
        <div className="told" role="status">
          {many(made.data.items, "item")}
          {made.data.clashes > 0 && `, ${count(made.data.clashes)} numbered since their address is another’s`}
          {made.data.without > 0 && `, ${count(made.data.without)} without an address`}
          {made.data.rows.map((row) => (
            <div key={row.key} title={`${row.key}: ${row.title}`}>
              <Addr of={row.path || row.key} /> {row.note && <span className="soft">{row.note}</span>}
            </div>
          ))}
        </div>
      )}
    </fieldset>
  );
}
