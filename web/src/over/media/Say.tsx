/** What a person says of one file: what it is for, the text and the name it has, what crops keep, whether it goes over. */
import { Button, Checkbox, FormControlLabel, MenuItem, TextField } from "@mui/material";
import { useState } from "react";
import { BUSY, off } from "../../shell/off";
import { useCrossingId, usePlan } from "../../shell/state";
import { useUnsaved } from "../../shell/unsaved";
import { Told } from "../../shores/Told";
import { Crops } from "./Crops";
import { small, useSay, type MediaDetail, type Said } from "./queries";
import { hasPicture, UNSUITED } from "./words";

const SMALL = { typography: { variant: "body2" as const } };
const isFilm = (mime: string) => mime.startsWith("video/");

export function Say({ id, detail }: { id: number; detail: MediaDetail }) {
  const crossing = useCrossingId();
  const plan = usePlan();
  const say = useSay();
  const [changed, setChanged] = useState<Partial<Omit<Said, "file">>>({});
  const { file, said } = detail;
  const at = { ...said, ...changed };
  const dirty = Object.keys(changed).length > 0;
  const roles = plan.data?.plan.media?.roles ?? [];
  const role = roles.find((one) => one.name === (at.role || file.role));
  const set = (change: Partial<Omit<Said, "file">>) => setChanged((had) => ({ ...had, ...change }));
  const shown = hasPicture(file);
  useUnsaved("said", dirty ? "what you say of this file" : "", "open");
  return (
    <form
      className="form of-file"
      onSubmit={(e) => {
        e.preventDefault();
        say.mutate({ files: [id], ...changed }, { onSuccess: () => setChanged({}) });
      }}
    >
      <Told error={plan.error ?? say.error} />
      {shown && (
        <Crops
          src={small(crossing, id)}
          focus={at.focus ?? ""}
          shape={role?.shape ?? ""}
          onFocus={(focus) => set({ focus })}
        />
      )}
      {file.width > 0 && (
        <TextField
          select
          label="What it is for"
          value={at.role ?? ""}
          onChange={(e) => set({ role: e.target.value })}
          helperText={file.unsuited ? UNSUITED[file.unsuited] : !roles.length && "Roles are made under Roles & sizes."}
          error={!!file.unsuited && at.role === said.role}
          slotProps={{ select: { displayEmpty: true }, inputLabel: { shrink: true } }}
        >
          <MenuItem value="">
            {!said.role && file.role ? `${file.role}, by the field it stands in` : "nothing said"}
          </MenuItem>
          {roles.map((one) => (
            <MenuItem key={one.name} value={one.name}>
              {one.name}
            </MenuItem>
          ))}
        </TextField>
      )}
      {file.width > 0 && (
        <TextField
          label="Text that stands for it"
          multiline
          maxRows={4}
          value={at.alt ?? ""}
          onChange={(e) => set({ alt: e.target.value })}
          helperText={at.over ? "on every page" : "where a page says none"}
        />
      )}
      {!!at.alt && file.shown > file.mute && (
        <FormControlLabel
          className="check"
          slotProps={SMALL}
          control={<Checkbox size="small" checked={!!at.over} onChange={(e) => set({ over: e.target.checked })} />}
          label="also where a page has a text of its own"
        />
      )}
      <TextField
        label="Name"
        placeholder={file.name || "as it is"}
        value={at.name ?? ""}
        onChange={(e) => set({ name: e.target.value })}
        slotProps={{ htmlInput: { className: "mono" }, inputLabel: { shrink: true } }}
      />
      {isFilm(file.mime) && (
        <TextField
          label="Picture that stands for it until it plays"
          placeholder="/pictures/first.jpg"
          helperText="the old address of a picture"
          value={at.poster ?? ""}
          onChange={(e) => set({ poster: e.target.value.trim() })}
          slotProps={{ htmlInput: { className: "mono" }, inputLabel: { shrink: true } }}
        />
      )}
      <TextField
        label="It stays behind, because"
        placeholder="it goes over"
        value={at.aside ?? ""}
        onChange={(e) => set({ aside: e.target.value })}
        slotProps={{ inputLabel: { shrink: true } }}
      />
      {file.width > 0 && (
        <FormControlLabel
          className="check"
          slotProps={SMALL}
          control={<Checkbox size="small" checked={!!at.same} onChange={(e) => set({ same: e.target.checked })} />}
          label="goes over as it is, though pictures are made anew"
        />
      )}
      <div className="acts">
        <Button type="submit" variant="contained" {...off([say.isPending, BUSY], [!dirty, "Nothing is changed."])}>
          Save
        </Button>
        {dirty && (
          <Button variant="outlined" onClick={() => setChanged({})}>
            As it was
          </Button>
        )}
      </div>
    </form>
  );
}
