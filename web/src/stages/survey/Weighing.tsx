/** What was handed over, held against what is known, before any of it is taken: an archive, a log, a list or table. */
import { Button, MenuItem, TextField } from "@mui/material";
import { useState } from "react";
import { count, many } from "../../shell/state";
import { Told } from "../../shores/Told";
import { useTaking, useWeighed, type Looked } from "./listQueries";
import { useSide } from "./queries";
import { WeighedLines } from "./Weighed";
import { BUSY, off } from "../../shell/off";

interface Props {
  looked: Looked;
  name: string;
  onDone: () => void;
}

function ArchiveTaking({ looked, name, onDone }: Props) {
  const side = useSide();
  const { archive, start } = useTaking(onDone);
  return (
    <div className="form scroll">
      <p style={{ margin: 0 }}>
        <b>{name}</b> is an archive of answers (WARC). The survey can be built from it; the {side} site itself is not
        asked. Addresses within the bounds that it does not hold are listed as failed.
      </p>
      <Told error={archive.error ?? start.error} />
      <div className="acts">
        <Button variant="contained" {...off([archive.isPending, BUSY])} onClick={() => archive.mutate(looked.token)}>
          Survey from the archive
        </Button>
        <Button onClick={onDone}>Leave it</Button>
      </div>
    </div>
  );
}

function LogTaking({ looked, name, onDone }: Props) {
  const { log } = useTaking(onDone);
  const [own, setOwn] = useState("");
  const take = () => log.mutate({ token: looked.token, name, own: own.split(/[\s,]+/).filter(Boolean) });
  return (
    <div className="form scroll">
      <p style={{ margin: 0 }}>
        <b>{name}</b> is an access log. Visits of people are counted; robots and your own machines are told apart.
        Addresses nobody links to come in with it.
      </p>
      <TextField
        label="Own machines, whose visits do not count (addresses or ranges)"
        placeholder="192.0.2.0/24"
        value={own}
        onChange={(e) => setOwn(e.target.value)}
        slotProps={{ htmlInput: { className: "mono" } }}
      />
      <Told error={log.error} />
      <div className="acts">
        <Button variant="contained" {...off([log.isPending, BUSY])} onClick={take}>
          Read the log
        </Button>
        <Button onClick={onDone}>Leave it</Button>
      </div>
    </div>
  );
}

function FirstRows({ looked, address }: { looked: Looked; address: number }) {
  return (
    <div style={{ overflowX: "auto" }} tabIndex={0} role="region" aria-label="First rows">
      <table className="plain">
        <thead>
          <tr>
            {looked.columns.map((c, n) => (
              <th key={n}>{c}</th>
            ))}
          </tr>
        </thead>
        <tbody>
          {looked.rows.slice(0, 3).map((row, n) => (
            <tr key={n}>
              {row.map((cell, m) => (
                <td key={m} className={m === address ? "mono" : ""}>
                  {cell}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

function ListTaking({ looked, name, onDone }: Props) {
  const { list } = useTaking(onDone);
  const [address, setAddress] = useState(looked.address);
  const [visits, setVisits] = useState(looked.visits);
  const [title, setTitle] = useState(looked.title);
  const side = useSide();
  const [same, setSame] = useState<Set<number>>(new Set());
  const table = looked.form === "table";
  const reading = {
    token: looked.token,
    form: table ? ("table" as const) : ("lines" as const),
    address: Math.max(0, address),
    visits,
    title: side === "new" ? title : -1, // of the old site pages tell themselves what they are called
  };
  const taken = (fetch: boolean) => list.mutate({ body: { ...reading, name, without: [...same] }, fetch });
  const asked = useWeighed(reading, !table || address >= 0);
  const found = asked.data;
  const column = (label: string, value: number, set: (n: number) => void) => (
    <TextField select label={label} value={value} onChange={(e) => set(Number(e.target.value))}>
      <MenuItem value={-1}>none</MenuItem>
      {looked.columns.map((c, n) => (
        <MenuItem key={n} value={n}>
          {c}
        </MenuItem>
      ))}
    </TextField>
  );
  return (
    <div className="form scroll">
      {table && (
        <>
          <div className="two">
            {column("Column of the addresses", address, setAddress)}
            {side === "new"
              ? column("Column of the titles", title, setTitle)
              : column("Column of the visits", visits, setVisits)}
          </div>
          <FirstRows looked={looked} address={address} />
        </>
      )}
      <Told error={asked.error ?? list.error} />
      {found && (
        <>
          <dl
            className="facts"
            style={{ margin: 0, gridTemplateColumns: "150px 1fr" }}
            aria-label="What the list holds"
          >
            <dt>Lines</dt>
            <dd>{count(found.lines)}</dd>
            <dt>Distinct, in bounds</dt>
            <dd>
              {count(found.counts.distinct ?? 0)}, of them <b>{count(found.counts.new ?? 0)}</b> no survey has met
            </dd>
            {found.visits > 0 && (
              <>
                <dt>Visits</dt>
                <dd>{count(found.visits)}</dd>
              </>
            )}
          </dl>
          <div className="acts">
            <Button
              variant="contained"
              {...off([list.isPending, BUSY], [!(found.counts.distinct ?? 0), "The list holds no address."])}
              onClick={() => taken(side === "old")}
            >
              Take {many((found.counts.distinct ?? 0) - same.size, "address", "addresses")}
              {side === "old" && " and fetch what is new"}
            </Button>
            {side === "new" && (
              <Button
                variant="outlined"
                {...off([list.isPending, BUSY], [!(found.counts.distinct ?? 0), "The list holds no address."])}
                onClick={() => taken(true)}
                title="Those that the new site does not give are no places then"
              >
                … and fetch what is new
              </Button>
            )}
            <Button onClick={onDone}>Leave it</Button>
          </div>
          <WeighedLines found={found} same={same} onSame={setSame} />
        </>
      )}
    </div>
  );
}

export function Weighing(props: Props) {
  if (props.looked.form === "archive") return <ArchiveTaking {...props} />;
  if (props.looked.form === "log") return <LogTaking {...props} />;
  return <ListTaking {...props} />;
}
