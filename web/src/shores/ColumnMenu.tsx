/** Which columns a list shows, and sets of columns kept under a name in this browser. */
import { Button, Checkbox, Menu, MenuItem, TextField } from "@mui/material";
import { useState } from "react";

interface Props {
  name: string;
  columns: { id: string; label: string }[];
  hidden: string[];
  onHidden: (hidden: string[]) => void;
  anchor: HTMLElement | null;
  onClose: () => void;
}
type Sets = Record<string, string[]>; // name -> columns shown

export function ColumnMenu({ name, columns, hidden, onHidden, anchor, onClose }: Props) {
  const place = `grandferry.columnsets.${name}`;
  const [sets, setSets] = useState<Sets>(() => JSON.parse(localStorage.getItem(place) ?? "{}") as Sets);
  const [called, setCalled] = useState("");
  const keep = (next: Sets) => {
    setSets(next);
    localStorage.setItem(place, JSON.stringify(next));
  };
  const shown = columns.filter((c) => !hidden.includes(c.id)).map((c) => c.id);
  const add = () => {
    if (!called.trim()) return;
    keep({ ...sets, [called.trim()]: shown });
    setCalled("");
  };
  return (
    <Menu anchorEl={anchor} open={anchor !== null} onClose={onClose} slotProps={{ list: { "aria-label": "Columns", dense: true }, paper: { sx: { maxHeight: 460 } } }}>
      {Object.entries(sets).map(([set, ids]) => (
        <MenuItem
          key={`set ${set}`}
          selected={ids.length === shown.length && ids.every((id) => shown.includes(id))}
          onClick={() => onHidden(columns.filter((c) => !ids.includes(c.id)).map((c) => c.id))}
        >
          <b>{set}</b>
          <button
            className="linkish"
            aria-label={`forget the set ${set}`}
            style={{ marginLeft: "auto", paddingLeft: 18 }}
            onClick={(e) => {
              e.stopPropagation();
              keep(Object.fromEntries(Object.entries(sets).filter(([other]) => other !== set)));
            }}
          >
            forget
          </button>
        </MenuItem>
      ))}
      {columns.map((c) => (
        <MenuItem key={c.id} onClick={() => onHidden(hidden.includes(c.id) ? hidden.filter((h) => h !== c.id) : [...hidden, c.id])}>
          <Checkbox checked={!hidden.includes(c.id)} tabIndex={-1} slotProps={{ input: { "aria-label": c.label } }} />
          {c.label}
        </MenuItem>
      ))}
      <li role="none" className="keepset" onKeyDown={(e) => e.key !== "Escape" && e.stopPropagation()}>
        <TextField label="Keep these columns as" value={called} onChange={(e) => setCalled(e.target.value)} onKeyDown={(e) => e.key === "Enter" && add()} />
        <Button disabled={!called.trim()} onClick={add}>
          Keep
        </Button>
      </li>
    </Menu>
  );
}
