/** A list of addresses: filters as chips, search, windows, and deciding over what is chosen. */
import { Button, Menu, MenuItem } from "@mui/material";
import { useEffect, useMemo, useRef, useState, type ReactNode } from "react";
import { useKeys } from "../../shell/keys";
import { useLink } from "../../shell/state";
import { Addr } from "../../shores/Addr";
import { LongList, NONE, type Column, type Picked } from "../../shores/LongList";
import { ActDialog, type Act } from "./ActDialog";
import { FILTERS, type Row } from "./columns";
import { FilterChip } from "./FilterChip";
import { useAddresses } from "./addressQueries";
import { hostOf, useSite } from "./queries";

const FIRST = 4; // filters shown at once; the others are a click away

/** Where an address lies: its path, and before it the host where that is another than the site's own. */
function Place({ row, own }: { row: Row; own: string }) {
  const host = hostOf(row.url);
  return (
    <>
      {own && host !== own && <span className="soft">{host}</span>}
      <Addr of={row.key} title={row.url} />
    </>
  );
}

interface Props {
  name: string;
  columns: Column<Row>[];
  filters?: [string, string][];
  fixed?: Record<string, string[]>; // filters that belong to this list: one value stays, of several one may choose
  empty?: ReactNode;
}
const NOTHING: Record<string, string[]> = {};

export function AddressList({ name, columns, filters: shownFilters = FILTERS, fixed = NOTHING, empty }: Props) {
  const link = useLink();
  const find = useRef<HTMLInputElement>(null);
  const [picked, setPicked] = useState<Picked>(NONE);
  const [act, setAct] = useState<Act | null>(null);
  const filters = useMemo(() => {
    const made: Record<string, string[]> = {};
    for (const [filter] of [...FILTERS, ["host", ""] as const]) {
      const values = link.all(filter);
      if (values.length) made[filter] = values;
    }
    for (const [filter, values] of Object.entries(fixed))
      if (values.length === 1 || !made[filter]) made[filter] = values;
    return made;
  }, [link, fixed]);
  const search = link.get("search");
  const below = link.get("below");
  const order = link.get("order") || localStorage.getItem(`grandferry.order.${name}`) || "key";
  const [text, setText] = useState(search);
  useEffect(() => setText(search), [search]);
  useEffect(() => {
    if (text === search) return;
    const timer = window.setTimeout(() => link.set({ search: text }, true), 200);
    return () => clearTimeout(timer);
  }, [text, search, link]);
  const asked = useMemo(() => ({ filters, search, below }), [filters, search, below]);
  const { view, load, position, text: copy } = useAddresses(asked, order);
  const key = JSON.stringify(view);
  useEffect(() => setPicked(NONE), [key]);
  useKeys([
    { key: "/", says: "find in address or title", run: () => find.current?.focus() },
    { key: "d", says: "retire what is chosen", run: () => (picked.all || picked.ids.size > 0) && setAct("retire") },
  ]);
  const { host: own, side } = useSite();
  const placed = useMemo(
    () =>
      columns.map((column) =>
        column.id === "key" ? { ...column, cell: (row: Row) => <Place row={row} own={own} /> } : column,
      ),
    [columns, own],
  );
  const wanted = picked.all
    ? { ids: [], filters, search, below, without: [...picked.ids] }
    : { ids: [...picked.ids], filters: {}, search: "", below: "", without: [] };
  const clearable = Object.keys(filters).some((f) => !(f in fixed) || link.all(f).length > 0) || search || below;
  const [number, setNumber] = useState(0);
  const [more, setMore] = useState<HTMLElement | null>(null);
  const [added, setAdded] = useState<string[]>([]);
  const rest = shownFilters.slice(FIRST).filter(([f]) => !(f in fixed) && !filters[f] && !added.includes(f));
  const chips = shownFilters.filter(
    ([f], n) => fixed[f]?.length !== 1 && (n < FIRST || filters[f] || added.includes(f)),
  );
  return (
    <>
      <div className="filters">
        {chips.map(([filter, label]) => (
          <FilterChip key={filter} name={filter} label={label} asked={asked} />
        ))}
        {rest.length > 0 && (
          <button className="chip" aria-haspopup="menu" onClick={(e) => setMore(e.currentTarget)}>
            + filter
          </button>
        )}
        <Menu
          anchorEl={more}
          open={more !== null}
          onClose={() => setMore(null)}
          slotProps={{ list: { "aria-label": "More filters", dense: true } }}
        >
          {rest.map(([filter, label]) => (
            <MenuItem key={filter} onClick={() => (setMore(null), setAdded((had) => [...had, filter]))}>
              {label}
            </MenuItem>
          ))}
        </Menu>
        {below && (
          <button
            className="chip on mono"
            onClick={() => link.set({ below: null, host: null })}
            title="Show all folders again"
          >
            {below} ×
          </button>
        )}
        {clearable && (
          <button
            className="linkish"
            onClick={() =>
              link.set({
                ...Object.fromEntries(FILTERS.map(([f]) => [f, null])),
                host: null,
                search: null,
                below: null,
              })
            }
          >
            clear
          </button>
        )}
        <input
          ref={find}
          className="find"
          placeholder="find in address or title"
          aria-label="find in address or title"
          value={text}
          onChange={(e) => setText(e.target.value)}
          onKeyDown={(e) => e.key === "Escape" && (setText(""), e.currentTarget.blur())}
        />
      </div>
      <LongList<Row>
        name={name}
        label={side === "old" ? "Old addresses" : "New addresses"}
        columns={placed}
        view={view}
        load={load}
        order={order}
        onOrder={(next) => {
          localStorage.setItem(`grandferry.order.${name}`, next);
          link.set({ order: next }, true);
        }}
        at={Number(link.get("open")) || undefined}
        onAt={(row) => link.set({ open: row.id }, true)}
        onOpen={(row) => link.set({ open: row.id, part: "page" })}
        picked={picked}
        onPicked={side === "old" ? setPicked : undefined}
        find={position}
        empty={empty}
        onCopy={copy}
        foot={(chosen) =>
          chosen > 0 && (
            <span className="acts" style={{ marginLeft: "auto" }}>
              {(
                [
                  ["move", "Lead to…"],
                  ["retire", "Retire"],
                  ["aside", "Set aside…"],
                  ["ask", "Ask…"],
                ] as const
              ).map(([what, label]) => (
                <Button key={what} variant="outlined" onClick={() => (setNumber(chosen), setAct(what))}>
                  {label}
                </Button>
              ))}
            </span>
          )
        }
      />
      {act && (
        <ActDialog
          what={act}
          number={number || picked.ids.size}
          wanted={wanted}
          onClose={(done) => (setAct(null), done && setPicked(NONE))}
        />
      )}
    </>
  );
}
