/** A profile of a folder of Markdown: a ready one, or changed from one. */
import { Checkbox, FormControlLabel, MenuItem, TextField } from "@mui/material";
import type { Schemas } from "../../api/client";

type Profile = Schemas["Profile"];
type Key = Schemas["Key"];

const MONO = { htmlInput: { className: "mono" } };
const SMALL = { typography: { variant: "body2" as const } };
const SHAPES: readonly (readonly [NonNullable<Key["form"]>, string])[] = [
  ["same", "as it is"],
  ["source", "a picture's source"],
  ["address", "address"],
  ["relative", "address without its first slash"],
  ["file", "file of the address"],
  ["relative_file", "file, without its first slash"],
];

export function ProfileForm({
  profile,
  ready,
  kinds,
  onSet,
}: {
  profile: Profile;
  ready: Profile[];
  kinds: { name: string; label: string }[];
  onSet: (changed: Profile) => void;
}) {
  const same = ready.find((one) => JSON.stringify(one) === JSON.stringify(profile));
  const set = (change: Partial<Profile>) => {
    const name = ready.some((one) => one.name === profile.name) ? `${profile.name}, changed` : profile.name;
    onSet({ ...profile, name, ...change });
  };
  const keys = profile.keys ?? [];
  const setKey = (n: number, change: Partial<Key>) =>
    set({ keys: keys.map((one, k) => (k === n ? { ...one, ...change } : one)) });
  const text = (label: string, name: "file" | "undated" | "media" | "dates" | "date", placeholder = "") => (
    <TextField
      label={label}
      placeholder={placeholder}
      value={profile[name] ?? ""}
      onChange={(e) => set({ [name]: e.target.value })}
      slotProps={MONO}
    />
  );
  return (
    <fieldset className="form" style={{ border: "none", padding: 0, margin: 0, minWidth: 0 }} aria-label="Profile">
      <TextField
        select
        label="Profile"
        value={same?.name ?? "own"}
        onChange={(e) => {
          const chosen = ready.find((one) => one.name === e.target.value);
          if (chosen) onSet(chosen);
        }}
      >
        {ready.map((one) => (
          <MenuItem key={one.name} value={one.name}>
            {one.name}
          </MenuItem>
        ))}
        {!same && <MenuItem value="own">{profile.name}</MenuItem>}
      </TextField>
      <TextField
        select
        label="Header"
        value={profile.header ?? "yaml"}
        onChange={(e) => set({ header: e.target.value as Profile["header"] })}
      >
        <MenuItem value="yaml">YAML between ---</MenuItem>
        <MenuItem value="lines">lines of Key: value</MenuItem>
      </TextField>
      {text("File of an item", "file", "content/{path}.md")}
      {text("File of an item without a date", "undated", "the same")}
      {text("File of a picture or document", "media", "content/{path}")}
      {text("Dates are written", "dates", "as they are kept")}
      <TextField
        select
        label="Its Markdown is read by"
        value={profile.reader ?? "commonmark"}
        onChange={(e) => set({ reader: e.target.value as Profile["reader"] })}
      >
        <MenuItem value="commonmark">CommonMark</MenuItem>
        <MenuItem value="older">the older rules</MenuItem>
      </TextField>
      <TextField
        select
        label="An address without an ending is"
        value={profile.ends ?? "folder"}
        onChange={(e) => set({ ends: e.target.value as Profile["ends"] })}
      >
        <MenuItem value="folder">a folder (…/index.html)</MenuItem>
        <MenuItem value="file">a file (….html)</MenuItem>
      </TextField>
      <FormControlLabel
        control={<Checkbox checked={profile.raw_html ?? true} onChange={(e) => set({ raw_html: e.target.checked })} />}
        label="What Markdown has no mark for may stand in tags"
        slotProps={SMALL}
      />
      <FormControlLabel
        control={<Checkbox checked={profile.others ?? true} onChange={(e) => set({ others: e.target.checked })} />}
        label="Fields without a key of their own follow under their names"
        slotProps={SMALL}
      />
      <TextField
        label="Key that names the template of an item"
        placeholder="none"
        value={profile.template ?? ""}
        onChange={(e) => set({ template: e.target.value })}
        slotProps={{ ...MONO, inputLabel: { shrink: true } }}
      />
      {profile.template &&
        kinds.map((kind) => (
          <TextField
            key={kind.name}
            label={`Template of “${kind.label}”`}
            placeholder="not named yet"
            value={profile.templates?.[kind.name] ?? ""}
            onChange={(e) => {
              const named = Object.entries({ ...profile.templates, [kind.name]: e.target.value });
              set({ templates: Object.fromEntries(named.filter(([, template]) => template)) });
            }}
            slotProps={{ ...MONO, inputLabel: { shrink: true } }}
          />
        ))}
      <div className="soft">Keys of the header, in this order</div>
      {keys.map((one, n) => (
        <div className="mapline" key={n}>
          <TextField
            label="key"
            value={one.key}
            onChange={(e) => setKey(n, { key: e.target.value })}
            slotProps={MONO}
          />
          <TextField
            label="of the field"
            title={[one.value, ...(one.also ?? [])].join(", else ")}
            value={[one.value, ...(one.also ?? [])].join(", ")}
            onChange={(e) => {
              const [value = "", ...also] = e.target.value.split(/,\s*/);
              setKey(n, { value, also });
            }}
            slotProps={MONO}
          />
          <TextField
            select
            label="written"
            value={one.form ?? "same"}
            onChange={(e) => setKey(n, { form: e.target.value as Key["form"] })}
          >
            {SHAPES.map(([shape, says]) => (
              <MenuItem key={shape} value={shape}>
                {says}
              </MenuItem>
            ))}
          </TextField>
          <button
            type="button"
            className="linkish"
            aria-label={`take the key ${one.key || n + 1} out`}
            onClick={() => set({ keys: keys.filter((_, k) => k !== n) })}
          >
            ×
          </button>
        </div>
      ))}
      <div className="soft">
        <button
          type="button"
          className="linkish"
          onClick={() => set({ keys: [...keys, { key: "", value: "", also: [], form: "same" }] })}
        >
          + key
        </button>
      </div>
    </fieldset>
  );
}
