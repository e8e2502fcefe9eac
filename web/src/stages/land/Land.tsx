/** Land: the target, a dry run, one item as a trial, the batch, and what happened to every thing. */
import { Button, TextField } from "@mui/material";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useCallback, useEffect, useState } from "react";
import { client, take, type Schemas } from "../../api/client";
import { useKeys } from "../../shell/keys";
import { count, many, useChangePlan, useCrossingId, useLink, usePlan, useStart, when } from "../../shell/state";
import { useUnsaved } from "../../shell/unsaved";
import { LongList, type Column } from "../../shores/LongList";
import { FateChip, useFates } from "../../shores/FateChip";
import { useLive } from "../../shores/Run";
import { StageHead } from "../../shores/StageHead";
import { Empty, Told } from "../../shores/Told";
import { Addr } from "../../shores/Addr";

type Thing = Schemas["ThingRow"] & { id: number };

const COLUMNS: Column<Thing>[] = [
  { id: "state", label: "state", width: 90, look: "b", cell: (r) => r.state },
  { id: "sort", label: "what", width: 76, cell: (r) => r.sort },
  { id: "title", label: "title", width: 160, grow: true, cell: (r) => <span title={r.title}>{r.title}</span> },
  {
    id: "key",
    label: "old",
    width: 180,
    grow: true,
    look: "mono",
    cell: (r) => (r.sort === "file" ? "" : <Addr of={r.key.replace(/^exact /, "")} />),
  },
  {
    id: "place",
    label: "new",
    width: 180,
    grow: true,
    look: "mono",
    cell: (r) => (r.place ? <Addr of={r.place} /> : "gone (410)"),
  },
  { id: "reason", label: "why", width: 110, cell: (r) => <span title={r.reason}>{r.reason}</span> },
];

function Target() {
  const plan = usePlan();
  const save = useChangePlan();
  const land = plan.data?.plan.land;
  const kinds = (plan.data?.plan.kinds ?? []).filter((k) => k.items !== "none");
  const [base, setBase] = useState<string | null>(null);
  const [types, setTypes] = useState<Record<string, string> | null>(null);
  const [files, setFiles] = useState<string | null>(null);
  const at = {
    base: base ?? land?.base ?? plan.data?.plan.interim ?? "",
    types: types ?? land?.types ?? {},
    files: files ?? plan.data?.plan.route?.files ?? "",
  };
  const dirty = base !== null || types !== null || files !== null;
  useUnsaved("target", dirty ? "the target" : "");
  useEffect(() => {
    if (save.isSuccess) {
      setBase(null);
      setTypes(null);
      setFiles(null);
    }
  }, [save.isSuccess]);
  const submit = () => {
    const typed = Object.fromEntries(kinds.map((k) => [k.name, at.types[k.name] || k.name]));
    save.mutate({
      text: "target to land at",
      decide: true,
      change: (p) => {
        p.land = {
          ...(p.land ?? { target: "jsonapi", file_type: "files", redirect_type: "redirects" }),
          base: at.base.trim(),
          types: typed,
        } as Schemas["LandSettings"];
        (p.route ??= {} as never).files = at.files.trim() || null;
      },
    });
  };
  return (
    <div className="shores">
      <section className="shore new" style={{ flex: "0 1 560px" }} aria-label="Target">
        <h2>
          Target <small>JSON:API over HTTP</small>
        </h2>
        <form
          className="form scroll"
          onSubmit={(e) => {
            e.preventDefault();
            submit();
          }}
        >
          <TextField
            label="Base address of the new system"
            value={at.base}
            onChange={(e) => setBase(e.target.value)}
            slotProps={{ htmlInput: { className: "mono" } }}
          />
          <TextField
            label="New address of files"
            placeholder="/media/{name}"
            value={at.files}
            onChange={(e) => setFiles(e.target.value)}
            slotProps={{ htmlInput: { className: "mono" } }}
          />
          {kinds.map((kind) => (
            <TextField
              key={kind.name}
              label={`“${kind.label || kind.name}” is called there`}
              value={at.types[kind.name] ?? ""}
              placeholder={kind.name}
              onChange={(e) => setTypes({ ...at.types, [kind.name]: e.target.value })}
              slotProps={{ htmlInput: { className: "mono" } }}
            />
          ))}
          {!kinds.length && <p className="soft">There is no kind yet. Make the kinds first.</p>}
          <Told error={save.error} />
          <div className="acts">
            <Button
              type="submit"
              variant="contained"
              disabled={!at.base.trim() || save.isPending || (!dirty && !!land)}
            >
              Save
            </Button>
            {!dirty && save.isSuccess && <span className="soft">Saved.</span>}
          </div>
        </form>
      </section>
      <div style={{ flex: 1 }} />
    </div>
  );
}

function Trial() {
  const id = useCrossingId();
  const start = useStart();
  const plan = usePlan();
  const live = useLive(["land"]);
  const [text, setText] = useState("");
  const items = useQuery({
    queryKey: ["trial", id, text],
    placeholderData: keepPreviousData,
    queryFn: () =>
      take(
        client.GET("/api/crossings/{crossing}/items", {
          params: { path: { crossing: id }, query: { search: text, limit: 100 } },
        }),
      ),
  });
  const rows = (items.data?.rows ?? []).filter((i) => i.new_path);
  const host = plan.data?.plan.land?.base.replace(/\/$/, "") ?? "";
  return (
    <section className="panel" style={{ flex: 1 }} aria-label="Trial">
      <h2>
        One item as a trial <small>its files go first; then look at it on the new site</small>
        <input
          className="find"
          placeholder="find an item"
          aria-label="find an item"
          value={text}
          onChange={(e) => setText(e.target.value)}
        />
      </h2>
      <Told error={items.error ?? start.error} />
      <div className="scroll" tabIndex={0} role="region" aria-label="Items">
        <table className="plain">
          <tbody>
            {rows.map((item) => (
              <tr key={item.id}>
                <td>{item.title || item.key}</td>
                <td className="soft">{item.kind}</td>
                <td className="mono">{item.new_path}</td>
                <td className="n">
                  <Button
                    variant="outlined"
                    disabled={!!live || !host}
                    onClick={() => start.mutate({ kind: "land", trial: item.key })}
                  >
                    Land this one
                  </Button>{" "}
                  <Button
                    component="a"
                    href={host + item.new_path}
                    target="_blank"
                    rel="noreferrer noopener"
                    disabled={!host}
                  >
                    Look
                  </Button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
        {!rows.length && items.data && (
          <div className="empty">No item has a new address yet. Lift, refit and decide first.</div>
        )}
      </div>
    </section>
  );
}

export default function Land() {
  const id = useCrossingId();
  const link = useLink();
  const plan = usePlan();
  const start = useStart();
  const live = useLive(["land"]);
  const tab = link.get("tab") || "things";
  const landings = useQuery({
    queryKey: ["landings", id],
    queryFn: () => take(client.GET("/api/crossings/{crossing}/landings", { params: { path: { crossing: id } } })),
  });
  const list = landings.data ?? [];
  const chosen = list.find((l) => l.id === Number(link.get("landing"))) ?? list[list.length - 1];
  const state = link.get("state");
  const search = link.get("search");
  const landing = chosen?.id ?? 0;
  const fate = useFates().join("|");
  const [states, setStates] = useState<Record<string, number>>({});
  const load = useCallback(
    async (offset: number, limit: number, signal: AbortSignal) => {
      const found = await take(
        client.GET("/api/crossings/{crossing}/landings/{landing}/things", {
          params: {
            path: { crossing: id, landing },
            query: { offset, limit, state, search, fate: fate ? fate.split("|") : [] },
          },
          signal,
        }),
      );
      setStates(found.states);
      return { total: found.total, rows: found.rows.map((r, n) => ({ ...r, id: offset + n + 1 }) as Thing) };
    },
    [id, landing, state, search, fate],
  );
  const target = plan.data?.plan.land;
  const run = (dry: boolean) => !live && target && start.mutate({ kind: "land", dry });
  useKeys([
    { key: "r", says: "land everything", run: () => void run(false) },
    { key: "t", says: "dry run", run: () => void run(true) },
  ]);
  return (
    <>
      <StageHead
        title="Land"
        trade="import"
        at={tab}
        tabs={[
          ["things", "Landings"],
          ["trial", "Trial"],
          ["target", "Target"],
        ]}
        aside={<span className="mono">{target?.base.replace(/\/$/, "") ?? "no target named"}</span>}
        stage="land"
        error={plan.error ?? landings.error ?? start.error}
      >
        <Button variant="outlined" onClick={() => void run(true)} disabled={!!live || !target}>
          Dry run <kbd style={{ marginLeft: 5 }}>T</kbd>
        </Button>
        <Button variant="contained" onClick={() => void run(false)} disabled={!!live || !target}>
          Land all <kbd style={{ marginLeft: 5 }}>R</kbd>
        </Button>
      </StageHead>
      {tab === "target" && plan.data && <Target />}
      {tab === "trial" && <Trial />}
      {tab === "things" &&
        (chosen ? (
          <div className="shores">
            <section className="panel" style={{ flex: "0 0 270px" }} aria-label="Landings">
              <h2>Landings</h2>
              <div className="scroll pad" tabIndex={0} role="region" aria-label="All landings">
                {[...list].reverse().map((l) => (
                  <button
                    key={l.id}
                    className={`card${l.id === chosen.id ? " on" : ""}`}
                    aria-pressed={l.id === chosen.id}
                    onClick={() => link.set({ landing: l.id, state: null })}
                  >
                    <span className="top">
                      <b>{l.dry ? "Dry run" : "Landing"}</b>
                      <em>{l.ended ? when(l.ended) : "not ended"}</em>
                    </span>
                    <div>
                      {l.dry ? "would create" : "created"} {count(l.counts.created as number)} ·{" "}
                      {l.dry ? "would change" : "changed"} {count(l.counts.changed as number)} · same{" "}
                      {count(l.counts.same as number)}
                    </div>
                    {((l.counts.refused as unknown[] | undefined)?.length ?? 0) > 0 && (
                      <div style={{ color: "var(--bad)" }}>
                        {many((l.counts.refused as unknown[]).length, "thing")} refused
                      </div>
                    )}
                  </button>
                ))}
              </div>
            </section>
            <section className="panel" style={{ flex: 1 }} aria-label="Things">
              <div className="filters">
                {["", "created", "changed", "same", "refused"].map((s) => (
                  <button
                    key={s}
                    className={`chip${state === s ? " on" : ""}`}
                    aria-pressed={state === s}
                    onClick={() => link.set({ state: s || null })}
                  >
                    {s || "all"} {count(s ? (states[s] ?? 0) : Object.values(states).reduce((a, b) => a + b, 0))}
                  </button>
                ))}
                <FateChip />
                <input
                  className="find"
                  placeholder="find a thing"
                  aria-label="find a thing"
                  value={search}
                  onChange={(e) => link.set({ search: e.target.value }, true)}
                />
              </div>
              <LongList<Thing>
                name="things"
                label="Things of this landing"
                columns={COLUMNS}
                view={[id, landing, state, search, fate]}
                load={load}
              />
            </section>
          </div>
        ) : (
          landings.data && (
            <section className="panel">
              <Empty
                title={target ? "Nothing has landed yet." : "No target is named."}
                action={target ? "Dry run" : "Name the target"}
                onAction={() => (target ? void run(true) : link.set({ tab: "target" }))}
              >
                {target
                  ? "A dry run says what would be created, changed or refused, and sends nothing."
                  : "Say where the new system answers, and what each kind is called there."}
              </Empty>
            </section>
          )
        ))}
    </>
  );
}
