/** The list of old addresses: filters as chips, search, windows, and deciding over what is chosen. */
import {
  Button,
  Checkbox,
  Dialog,
  DialogActions,
  DialogContent,
  DialogTitle,
  Menu,
  MenuItem,
  TextField,
} from "@mui/material";
import { keepPreviousData, useMutation, useQuery } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useRef, useState, type ReactNode } from "react";
import { client, take, type Schemas } from "../../api/client";
import { useKeys } from "../../shell/keys";
import { count, many, useCrossingId, useLink, usePlan, useRefresh, useStart } from "../../shell/state";
import { LongList, NONE, type Column, type Picked } from "../../shores/LongList";
import { Told } from "../../shores/Told";
import { FILTERS, type Row } from "./columns";

const FIRST = 4; // filters shown at once; the others are a click away
type Act = Schemas["Act"]["what"];

function Chip({
  name,
  label,
  filters,
  search,
  below,
}: {
  name: string;
  label: string;
  filters: Record<string, string[]>;
  search: string;
  below: string;
}) {
  const id = useCrossingId();
  const link = useLink();
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const chosen = link.all(name);
  const choices = useQuery({
    queryKey: ["choices", id, name, { ...filters, [name]: null }, search, below],
    enabled: anchor !== null,
    placeholderData: keepPreviousData,
    queryFn: () =>
      take(
        client.GET("/api/crossings/{crossing}/addresses/choices", {
          params: { path: { crossing: id }, query: { ...filters, name, search, below } as never },
        }),
      ),
  });
  return (
    <>
      <button
        className={`chip${chosen.length ? " on" : ""}`}
        aria-haspopup="menu"
        onClick={(e) => setAnchor(e.currentTarget)}
      >
        {label}: {chosen.length ? chosen.map((c) => c || "none").join(", ") : "any"}
      </button>
      <Menu
        anchorEl={anchor}
        open={anchor !== null}
        onClose={() => setAnchor(null)}
        slotProps={{ list: { "aria-label": label, dense: true } }}
      >
        {(choices.data ?? []).map((choice) => (
          <MenuItem
            key={choice.value}
            onClick={() =>
              link.set(
                {
                  [name]: chosen.includes(choice.value)
                    ? chosen.filter((c) => c !== choice.value)
                    : [...chosen, choice.value],
                },
                true,
              )
            }
          >
            <Checkbox
              checked={chosen.includes(choice.value)}
              tabIndex={-1}
              slotProps={{ input: { "aria-label": choice.value || "none" } }}
            />
            {choice.value || "none"}
            <span className="soft" style={{ marginLeft: "auto", paddingLeft: 18 }}>
              {count(choice.count)}
            </span>
          </MenuItem>
        ))}
        {chosen.length > 0 && <MenuItem onClick={() => (setAnchor(null), link.set({ [name]: null }))}>any</MenuItem>}
        {choices.error && <Told error={choices.error} />}
      </Menu>
    </>
  );
}

function ActDialog({
  what,
  number,
  wanted,
  onClose,
}: {
  what: Act;
  number: number;
  wanted: Omit<Schemas["Act"], "what" | "to" | "reason">;
  onClose: (done: boolean) => void;
}) {
  const id = useCrossingId();
  const start = useStart();
  const refresh = useRefresh();
  const [to, setTo] = useState("");
  const [reason, setReason] = useState("");
  const act = useMutation({
    mutationFn: () =>
      take(
        client.POST("/api/crossings/{crossing}/addresses/act", {
          params: { path: { crossing: id } },
          body: { ...wanted, what, to, reason },
        }),
      ),
    onSuccess: () => {
      start.mutate({ kind: "route" });
      void refresh();
      onClose(true);
    },
  });
  const title = { retire: "Retire", move: "Lead", aside: "Set aside" }[what];
  const ready = what === "retire" || (what === "move" ? to.trim() : reason.trim().length > 2);
  return (
    <Dialog open onClose={() => onClose(false)} aria-labelledby="act-title" fullWidth maxWidth="sm">
      <DialogTitle id="act-title">
        {title} {many(number, "address", "addresses")}
        {what === "move" ? " to one new address" : ""}
      </DialogTitle>
      <DialogContent>
        {what === "retire" && <p>They will answer 410, gone on purpose. A check has to prove it.</p>}
        {what === "move" && (
          <TextField
            autoFocus
            label="New address"
            placeholder="/new/place"
            value={to}
            onChange={(e) => setTo(e.target.value)}
            onKeyDown={(e) => e.key === "Enter" && ready && act.mutate()}
            sx={{ mt: 1 }}
          />
        )}
        {what === "aside" && (
          <TextField
            autoFocus
            label="Why they are left out"
            value={reason}
            onChange={(e) => setReason(e.target.value)}
            onKeyDown={(e) => e.key === "Enter" && ready && act.mutate()}
            sx={{ mt: 1 }}
          />
        )}
        <p className="soft">Only addresses in the account are decided. One change; Z takes it back.</p>
        <Told error={act.error ?? start.error} />
      </DialogContent>
      <DialogActions>
        <Button onClick={() => onClose(false)}>Leave it</Button>
        <Button
          variant="contained"
          autoFocus={what === "retire"}
          disabled={!ready || act.isPending}
          onClick={() => act.mutate()}
        >
          {title} {count(number)}
        </Button>
      </DialogActions>
    </Dialog>
  );
}

const hostOf = (url: string) => url.replace(/^https?:\/\//, "").split("/")[0] ?? "";

/** Where an address lies: its path, and before it the host where that is another than the site's own. */
function Place({ row, own }: { row: Row; own: string }) {
  const host = hostOf(row.url);
  return (
    <span title={row.url}>
      {own && host !== own && <span className="soft">{host}</span>}
      {row.key}
    </span>
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
  const id = useCrossingId();
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
  const query = useMemo(
    () => ({ ...filters, ...(search && { search }), ...(below && { below }), order }),
    [filters, search, below, order],
  );
  const path = useMemo(() => ({ crossing: id }), [id]);
  const load = useCallback(
    (offset: number, limit: number, signal: AbortSignal) =>
      take(
        client.GET("/api/crossings/{crossing}/addresses", {
          params: { path, query: { ...query, offset, limit } },
          signal,
        }),
      ),
    [path, query],
  );
  const position = useCallback(
    async (address: number) =>
      (
        await take(
          client.GET("/api/crossings/{crossing}/addresses/position", {
            params: { path, query: { ...query, address } },
          }),
        )
      ).position,
    [path, query],
  );
  const key = JSON.stringify([id, query]);
  useEffect(() => setPicked(NONE), [key]);
  useKeys([
    { key: "/", says: "find in address or title", run: () => find.current?.focus() },
    { key: "d", says: "retire what is chosen", run: () => (picked.all || picked.ids.size > 0) && setAct("retire") },
  ]);
  const own = hostOf(usePlan().data?.plan.old.start ?? "");
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
          <Chip key={filter} name={filter} label={label} filters={filters} search={search} below={below} />
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
        label="Old addresses"
        columns={placed}
        view={[id, query]}
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
        onPicked={setPicked}
        find={position}
        empty={empty}
        onCopy={() =>
          take(
            client.GET("/api/crossings/{crossing}/addresses/text", {
              params: { path, query: query as never },
              parseAs: "text",
            }) as never,
          )
        }
        foot={(chosen) =>
          chosen > 0 && (
            <span className="acts" style={{ marginLeft: "auto" }}>
              {(
                [
                  ["move", "Lead to…"],
                  ["retire", "Retire"],
                  ["aside", "Set aside…"],
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
