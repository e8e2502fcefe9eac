/** The target: where the new system answers, and what each kind is called there. */
import { Button, MenuItem, TextField } from "@mui/material";
import { useEffect, useState } from "react";
import type { Schemas } from "../../api/client";
import { useChangePlan, usePlan } from "../../shell/state";
import { useUnsaved } from "../../shell/unsaved";
import { Told } from "../../shores/Told";
import { BUSY, off } from "../../shell/off";
import { useKinds } from "../sort/queries";
import { Mapping } from "./Mapping";
import { ProfileForm } from "./Profile";
import { FORMS, isFolder, type Form } from "./forms";
import { useProfiles } from "./queries";

type Mapped = Schemas["Mapped"];
type Profile = Schemas["Profile"];

export function Target() {
  const plan = usePlan();
  const save = useChangePlan();
  const land = plan.data?.plan.land;
  const rows = useKinds([]);
  const kinds = (rows.data?.kinds ?? []).filter((k) => k.makes_items);
  const [form, setForm] = useState<Form | null>(null);
  const [base, setBase] = useState<string | null>(null);
  const [folder, setFolder] = useState<string | null>(null);
  const [profile, setProfile] = useState<Profile | null>(null);
  const ready = useProfiles();
  const [types, setTypes] = useState<Record<string, string> | null>(null);
  const [files, setFiles] = useState<string | null>(null);
  const [mapping, setMapping] = useState<Record<string, Mapped[]> | null>(null);
  const [shown, setShown] = useState("");
  const at = {
    form: form ?? land?.target ?? "jsonapi",
    folder: folder ?? land?.folder ?? "",
    profile: profile ?? land?.profile ?? ready.data?.[0],
    base: base ?? land?.base ?? plan.data?.plan.interim ?? "",
    types: types ?? land?.types ?? {},
    files: files ?? plan.data?.plan.route?.files ?? "",
    fields: mapping ?? land?.fields ?? {},
  };
  const set = [form, folder, profile].some((one) => one !== null);
  const dirty = set || base !== null || types !== null || files !== null || mapping !== null;
  const of = kinds.find((k) => k.name === shown) ?? kinds[0];
  const own = plan.data?.plan.kinds?.find((k) => k.name === of?.of);
  useUnsaved("target", dirty ? "the target" : "");
  useEffect(() => {
    if (save.isSuccess) {
      setForm(null);
      setFolder(null);
      setProfile(null);
      setBase(null);
      setTypes(null);
      setFiles(null);
      setMapping(null);
    }
  }, [save.isSuccess]);
  const submit = () => {
    const typed = Object.fromEntries(kinds.map((k) => [k.name, at.types[k.name] || at.types[k.of] || k.name]));
    save.mutate({
      text: "target to land at",
      decide: true,
      change: (p) => {
        p.land = {
          ...(p.land ?? { target: "jsonapi", file_type: "files", redirect_type: "redirects" }),
          target: at.form,
          base: isFolder(at.form) ? (land?.base ?? null) : at.base.trim(),
          folder: at.folder.trim(),
          profile: at.form === "markdown" ? at.profile : (land?.profile ?? null),
          types: typed,
          fields: Object.fromEntries(
            Object.entries(at.fields)
              .map(([kind, rules]) => [kind, rules.filter((r) => r.sources.length)] as const)
              .filter(([, rules]) => rules.length),
          ),
        } as Schemas["LandSettings"];
        (p.route ??= {} as never).files = at.files.trim() || null;
      },
    });
  };
  return (
    <div className="shores">
      <section className="shore new" style={{ flex: "0 1 560px" }} aria-label="Target">
        <h2>
          Target <small>{FORMS.find(([name]) => name === at.form)?.[1]}</small>
        </h2>
        <form
          className="form scroll"
          onSubmit={(e) => {
            e.preventDefault();
            submit();
          }}
        >
          <TextField select label="Goes to" value={at.form} onChange={(e) => setForm(e.target.value as Form)}>
            {FORMS.map(([name, says]) => (
              <MenuItem key={name} value={name}>
                {says}
              </MenuItem>
            ))}
          </TextField>
          {isFolder(at.form) ? (
            <TextField
              label="Name of the folder"
              placeholder="as the crossing is called"
              helperText="It lies in the workspace, under “landed”. The command line lands anywhere: grandferry land --out."
              value={at.folder}
              onChange={(e) => setFolder(e.target.value)}
              slotProps={{ htmlInput: { className: "mono" } }}
            />
          ) : (
            <TextField
              label="Base address of the new system"
              value={at.base}
              onChange={(e) => setBase(e.target.value)}
              slotProps={{ htmlInput: { className: "mono" } }}
            />
          )}
          <Told error={ready.error} />
          {at.form === "markdown" && at.profile && (
            <ProfileForm profile={at.profile} ready={ready.data ?? []} kinds={kinds} onSet={setProfile} />
          )}
          <TextField
            label="New address of files"
            placeholder="/media/{name}"
            helperText={at.files ? "" : "Where nothing is said, a file goes along with the page that it stands on."}
            value={at.files}
            onChange={(e) => setFiles(e.target.value)}
            slotProps={{ htmlInput: { className: "mono" } }}
          />
          {!isFolder(at.form) &&
            kinds.map((kind) => (
              <TextField
                key={kind.name}
                label={`“${kind.label}” is called there`}
                value={at.types[kind.name] ?? at.types[kind.of] ?? ""}
                placeholder={kind.name}
                onChange={(e) => setTypes({ ...at.types, [kind.name]: e.target.value })}
                slotProps={{ htmlInput: { className: "mono" } }}
              />
            ))}
          <Told error={rows.error} />
          {rows.data && !kinds.length && <p className="soft">There is no kind yet. Make the kinds first.</p>}
          <Told error={save.error} />
          <div className="acts">
            <Button
              type="submit"
              variant="contained"
              {...off(
                [!isFolder(at.form) && !at.base.trim(), "Write the target's address first."],
                [save.isPending, BUSY],
                [!dirty && !!land, "Nothing is changed."],
              )}
            >
              Save
            </Button>
            {!dirty && save.isSuccess && <span className="soft">Saved.</span>}
          </div>
        </form>
      </section>
      <section className="panel" style={{ flex: 1 }} aria-label="Fields there">
        <h2>
          Fields there <small>ours → theirs; a line for what is not the same</small>
        </h2>
        <div className="form scroll">
          {of && own && (
            <>
              <TextField select label="Kind" value={of.name} onChange={(e) => setShown(e.target.value)}>
                {kinds.map((k) => (
                  <MenuItem key={k.name} value={k.name}>
                    {k.label}
                  </MenuItem>
                ))}
              </TextField>
              <Mapping
                key={of.name}
                kind={of.name}
                fields={(own.fields ?? []).map((f) => f.name)}
                rules={at.fields[of.name] ?? at.fields[of.of] ?? []}
                onSet={(rules) => setMapping({ ...at.fields, [of.name]: rules })}
              />
            </>
          )}
        </div>
      </section>
    </div>
  );
}
