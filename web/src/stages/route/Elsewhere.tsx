/** Files that lie on other hosts of the old site: an account of their own, host by host and one by one. */
import { useMemo } from "react";
import type { Schemas } from "../../api/client";
import { useGo } from "../../shell/Go";
import { count, many, size, useLink } from "../../shell/state";
import { Addr } from "../../shores/Addr";
import { LongList, type Column } from "../../shores/LongList";
import { Empty, Told } from "../../shores/Told";
import { useSisterFiles, useSisterHosts } from "./queries";

type Row = Schemas["SisterFileRow"];

export function Elsewhere() {
  const link = useLink();
  const go = useGo();
  const hosts = useSisterHosts();
  const host = link.get("host");
  const fate = link.get("fate");
  const { view, load } = useSisterFiles(host, fate as Row["fate"] | "");
  const columns = useMemo<Column<Row>[]>(
    () => [
      {
        id: "key",
        label: "old address",
        width: 240,
        grow: true,
        look: "mono",
        cell: (r) => (
          <>
            <span className="soft">{r.host}</span>
            <Addr of={r.key} title={r.url} />
          </>
        ),
      },
      { id: "mime", label: "what", width: 150, cell: (r) => `${r.mime} · ${size(r.bytes)}` },
      { id: "in", label: "linked on", width: 84, look: "num", cell: (r) => many(r.in_links, "page") },
      { id: "visits", label: "visits", width: 64, look: "num", cell: (r) => (r.visits ? count(r.visits) : "") },
      { id: "fate", label: "fate", width: 104, look: "b", cell: (r) => r.fate },
      { id: "says", label: "what becomes of it", width: 330, grow: true, cell: (r) => r.says },
    ],
    [],
  );
  const rows = hosts.data ?? [];
  return (
    <section className="panel" style={{ flex: 1 }} aria-label="Files of other hosts">
      <Told error={hosts.error} />
      {hosts.data && !rows.length ? (
        <Empty title="No file of the site lies on another host.">
          Hosts that give files are named under scope and manners; what is met on others is kept out.
        </Empty>
      ) : (
        <>
          <div className="filters">
            {rows.map((r) => {
              const on = host === r.host && fate === r.fate;
              return (
                <button
                  key={`${r.host} ${r.fate}`}
                  className={`chip${on ? " on" : ""}`}
                  aria-pressed={on}
                  onClick={() => link.set(on ? { host: null, fate: null } : { host: r.host, fate: r.fate }, true)}
                >
                  <span className="mono">{r.host}</span> {r.fate} <b>{count(r.count)}</b>
                </button>
              );
            })}
            <span className="sp" />
            <span className="soft">The new host cannot answer for these; they are in no count of old addresses.</span>
          </div>
          <LongList<Row>
            name="elsewhere"
            label="Files of other hosts"
            columns={columns}
            view={view}
            load={load}
            onOpen={(r) => void go(`survey?open=${r.id}`)}
          />
        </>
      )}
    </section>
  );
}
