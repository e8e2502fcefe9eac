/** Media: every file by its content, where it is shown, what is said of it, what is wrong with it, what becomes of it. */
import { useState } from "react";
import { count, size, useCrossingId, useLink } from "../../shell/state";
import { LongList, NONE, type Column, type Picked } from "../../shores/LongList";
import { StageHead } from "../../shores/StageHead";
import { Addr } from "../../shores/Addr";
import { Chosen } from "./Chosen";
import { FileFacts } from "./FileFacts";
import { Grid } from "./Grid";
import { Lacking } from "./Lacking";
import { Roles } from "./Roles";
import { FAULT, hasPicture, ONLY, pixels, UNSUITED } from "./words";
import { small, useMedia, usePictures, useSay, type Asked, type MediaFile } from "./queries";

const columns = (crossing: number): Column<MediaFile>[] => [
  {
    id: "small",
    label: "",
    width: 40,
    cell: (r) =>
      hasPicture(r) ? <img className="thumb" src={small(crossing, r.id)} alt="" loading="lazy" decoding="async" /> : "",
  },
  {
    id: "url",
    label: "file",
    width: 220,
    grow: true,
    look: "mono",
    cell: (r) => <Addr of={r.url.replace(/^https?:\/\//, "")} />,
  },
  { id: "mime", label: "type", width: 110, cell: (r) => <span title={r.mime}>{r.mime.replace(/^.*\//, "")}</span> },
  { id: "pixels", label: "pixels", width: 86, look: "num", cell: (r) => pixels(r) },
  { id: "bytes", label: "weight", width: 72, look: "num", cell: (r) => size(r.bytes) },
  { id: "pages", label: "on pages", width: 66, look: "num", cell: (r) => count(r.pages) },
  { id: "mute", label: "no text", width: 60, look: "num", cell: (r) => (r.mute ? count(r.mute) : "") },
  {
    id: "role",
    label: "for",
    width: 90,
    cell: (r) => (
      <span className={r.unsuited ? "state odd" : ""} title={r.unsuited ? UNSUITED[r.unsuited] : ""}>
        {r.role}
      </span>
    ),
  },
  { id: "sources", label: "addresses", width: 70, look: "num", cell: (r) => count(r.sources) },
  {
    id: "new",
    label: "new",
    width: 170,
    grow: true,
    look: "mono",
    cell: (r) => r.new_path && <Addr of={r.new_path} />,
  },
  {
    id: "fate",
    label: "fate",
    width: 150,
    cell: (r) => (
      <span title={r.says}>{r.fault ? FAULT[r.fault] : r.fate === "set aside" ? `set aside: ${r.says}` : r.fate}</span>
    ),
  },
];

export default function Media() {
  const link = useLink();
  const crossing = useCrossingId();
  const say = useSay();
  const [picked, setPicked] = useState<Picked>(NONE);
  const tab = link.get("tab") || "files";
  const asked: Asked = {
    family: link.get("family"),
    only: link.get("only"),
    order: link.get("order") || "url",
    search: link.get("search"),
  };
  const { view, load } = useMedia(asked);
  const first = usePictures(asked).data?.pages[0];
  const counts = first?.counts ?? {};
  const open = Number(link.get("open")) || 0;
  const families = Object.entries(first?.families ?? {}).sort((a, b) => b[1] - a[1]);
  const all = families.reduce((sum, [, n]) => sum + n, 0);
  return (
    <>
      <StageHead
        title="Media"
        trade="files"
        at={tab}
        tabs={[
          ["files", "List"],
          ["grid", "Side by side"],
          ["missing", "Not had"],
          ["roles", "Roles & sizes"],
        ]}
        stage="survey"
        error={say.error}
      >
        {null}
      </StageHead>
      {tab === "missing" ? (
        <Lacking />
      ) : tab === "roles" ? (
        <Roles />
      ) : (
        <div className="shores">
          <section className="panel" style={{ flex: 1 }} aria-label="Files">
            <div className="filters">
              <button className={`chip${asked.family ? "" : " on"}`} onClick={() => link.set({ family: null })}>
                all {count(all)}
              </button>
              {families.map(([name, n]) => (
                <button
                  key={name}
                  className={`chip${asked.family === name ? " on" : ""}`}
                  onClick={() => link.set({ family: asked.family === name ? null : name })}
                >
                  {name} {count(n)}
                </button>
              ))}
              {ONLY.map(([name, says]) => (
                <button
                  key={name}
                  className={`chip${asked.only === name ? " on" : ""}`}
                  onClick={() => link.set({ only: asked.only === name ? null : name })}
                >
                  {says} {count(counts[name])}
                </button>
              ))}
              <input
                className="find"
                placeholder="find a file"
                aria-label="find a file"
                value={asked.search}
                onChange={(e) => link.set({ search: e.target.value || null }, true)}
              />
            </div>
            {tab === "grid" ? (
              <Grid asked={asked} at={open} onOpen={(id) => link.set({ open: id }, true)} />
            ) : (
              <LongList<MediaFile>
                name="media"
                label="Files"
                columns={columns(crossing)}
                view={view}
                load={load}
                at={open}
                singly
                picked={picked}
                onPicked={setPicked}
                foot={() =>
                  picked.ids.size > 0 && (
                    <Chosen
                      number={picked.ids.size}
                      busy={say.isPending}
                      onSay={(what) =>
                        say.mutate({ files: [...picked.ids], ...what }, { onSuccess: () => setPicked(NONE) })
                      }
                    />
                  )
                }
                onAt={(row) => link.set({ open: row.id }, true)}
                onOpen={(row) => link.set({ open: row.id }, true)}
                empty="No file is here yet. The survey captures them."
              />
            )}
          </section>
          {open > 0 && <FileFacts id={open} />}
        </div>
      )}
    </>
  );
}
