/** What pictures are for, with the least they must have, and how they are made anew as they go over. */
import { Button, MenuItem, TextField } from "@mui/material";
import { useEffect, useState } from "react";
import type { Schemas } from "../../api/client";
import { BUSY, off } from "../../shell/off";
import { useChangePlan, usePlan } from "../../shell/state";
import { useUnsaved } from "../../shell/unsaved";
import { Told } from "../../shores/Told";

type Role = Schemas["Role"];
type Remake = Schemas["Remake"];
const MONO = { htmlInput: { className: "mono" } };
const number = (text: string) => Number(text.replace(/\D/g, "")) || 0;

export function Roles() {
  const plan = usePlan();
  const save = useChangePlan();
  const [mine, setMine] = useState<Role[] | null>(null);
  const [anew, setAnew] = useState<Remake | null>(null);
  const media = plan.data?.plan.media;
  const roles = mine ?? media?.roles ?? [];
  const remake: Remake = anew ?? media?.remake ?? { widest: 0, form: "", quality: 82 };
  const fields = [
    ...new Set(
      (plan.data?.plan.kinds ?? []).flatMap((kind) =>
        (kind.fields ?? []).filter((field) => field.type === "picture").map((field) => field.name),
      ),
    ),
  ].sort();
  const dirty = mine !== null || anew !== null;
  useUnsaved("roles", dirty ? "roles and sizes" : "");
  useEffect(() => {
    if (save.isSuccess) {
      setMine(null);
      setAnew(null);
    }
  }, [save.isSuccess]);
  const set = (n: number, change: Partial<Role>) =>
    setMine(roles.map((one, k) => (k === n ? { ...one, ...change } : one)));
  // what is added before the plan is here would be all there is, and saved over what there was
  if (!plan.data)
    return (
      <section className="panel" aria-label="Roles">
        <Told error={plan.error} />
      </section>
    );
  return (
    <form
      className="shores"
      onSubmit={(e) => {
        e.preventDefault();
        save.mutate({
          text: "roles and sizes of pictures",
          decide: true,
          change: (p) => {
            p.media = { roles: roles.filter((one) => one.name.trim()), remake };
          },
        });
      }}
    >
      <section className="panel" style={{ flex: 1 }} aria-label="Roles">
        <h2>
          What pictures are for <small>one that does not suit its role is listed, with why</small>
        </h2>
        <Told error={plan.error ?? save.error} />
        <div className="scroll" tabIndex={0} role="region" aria-label="Roles of pictures">
          <table className="plain roles">
            <thead>
              <tr>
                <th>role</th>
                <th>at least wide</th>
                <th>at least high</th>
                <th>shape</th>
                <th>has it: pictures of the fields</th>
                <th />
              </tr>
            </thead>
            <tbody>
              {roles.map((role, n) => (
                <tr key={n}>
                  <td>
                    <TextField
                      value={role.name}
                      placeholder="lead picture"
                      onChange={(e) => set(n, { name: e.target.value })}
                      slotProps={{ htmlInput: { "aria-label": `name of role ${n + 1}` } }}
                    />
                  </td>
                  {(["width", "height"] as const).map((side) => (
                    <td key={side}>
                      <TextField
                        value={role[side] || ""}
                        placeholder="any"
                        onChange={(e) => set(n, { [side]: number(e.target.value) })}
                        slotProps={{ htmlInput: { inputMode: "numeric", "aria-label": `${side} of role ${n + 1}` } }}
                      />
                    </td>
                  ))}
                  <td>
                    <TextField
                      value={role.shape ?? ""}
                      placeholder="any"
                      onChange={(e) => set(n, { shape: e.target.value.trim() })}
                      slotProps={{ htmlInput: { className: "mono", "aria-label": `shape of role ${n + 1}` } }}
                    />
                  </td>
                  <td>
                    <TextField
                      select
                      value={role.fields ?? []}
                      onChange={(e) => set(n, { fields: e.target.value as unknown as string[] })}
                      slotProps={{
                        select: {
                          multiple: true,
                          displayEmpty: true,
                          renderValue: (v) => (v as string[]).join(", ") || "none",
                        },
                        htmlInput: { "aria-label": `fields of role ${n + 1}` },
                      }}
                    >
                      {fields.map((name) => (
                        <MenuItem key={name} value={name}>
                          {name}
                        </MenuItem>
                      ))}
                    </TextField>
                  </td>
                  <td>
                    <button type="button" className="linkish" onClick={() => setMine(roles.filter((_, k) => k !== n))}>
                      take away
                    </button>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          {!roles.length && (
            <p className="pad soft">
              None yet. A lead picture, say, must be 1,200 × 630 at least: name it here, choose the field it stands in,
              and every picture of that field that is too small, or of another shape, is listed.
            </p>
          )}
          <div className="pad">
            <Button
              variant="outlined"
              onClick={() => setMine([...roles, { name: "", width: 0, height: 0, shape: "", fields: [] }])}
            >
              One more role
            </Button>
          </div>
        </div>
      </section>
      <section className="panel" style={{ flex: "0 0 340px" }} aria-label="Made anew">
        <h2>
          Made anew on the way <small>originals are kept</small>
        </h2>
        <div className="form scroll">
          <TextField
            label="Longer side at the most, in pixels"
            placeholder="as many as it has"
            value={remake.widest || ""}
            onChange={(e) => setAnew({ ...remake, widest: number(e.target.value) })}
            slotProps={{ htmlInput: { inputMode: "numeric", ...MONO.htmlInput }, inputLabel: { shrink: true } }}
          />
          <TextField
            select
            label="Form"
            value={remake.form ?? ""}
            onChange={(e) => setAnew({ ...remake, form: e.target.value as Remake["form"] })}
            slotProps={{ select: { displayEmpty: true }, inputLabel: { shrink: true } }}
          >
            <MenuItem value="">as it is</MenuItem>
            <MenuItem value="webp">WebP, with every link to it</MenuItem>
          </TextField>
          <TextField
            label="Quality of JPEG and WebP, 1 to 100"
            value={remake.quality ?? 82}
            onChange={(e) => setAnew({ ...remake, quality: Math.min(100, Math.max(1, number(e.target.value))) })}
            slotProps={{ htmlInput: { inputMode: "numeric", ...MONO.htmlInput } }}
          />
          <p className="soft">
            JPEG, PNG, WebP and BMP, up to 40 million pixels. What may move (GIF), drawings (SVG) and TIFF go over as
            they are, and each file of which you say so.
          </p>
          <div className="acts">
            <Button type="submit" variant="contained" {...off([save.isPending, BUSY], [!dirty, "Nothing is changed."])}>
              Save
            </Button>
            {dirty && (
              <Button
                variant="outlined"
                onClick={() => {
                  setMine(null);
                  setAnew(null);
                }}
              >
                As it was
              </Button>
            )}
          </div>
        </div>
      </section>
    </form>
  );
}
