/** Which columns a list shows, and sets of columns kept under a name in this browser. */
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
import { useState } from "react";
import { off } from "../shell/off";

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
  const [asking, setAsking] = useState(false);
  const keep = (next: Sets) => {
    setSets(next);
    localStorage.setItem(place, JSON.stringify(next));
  };
  const shown = columns.filter((c) => !hidden.includes(c.id)).map((c) => c.id);
  const add = () => {
    if (!called.trim()) return;
    keep({ ...sets, [called.trim()]: shown });
    setCalled("");
    setAsking(false);
  };
  return (
    <>
      <Menu
        anchorEl={anchor}
        open={anchor !== null}
        onClose={onClose}
        slotProps={{ list: { "aria-label": "Columns", dense: true }, paper: { sx: { maxHeight: 460 } } }}
      >
        {Object.entries(sets).map(([set, ids]) => (
          <MenuItem
            key={`set ${set}`}
            selected={ids.length === shown.length && ids.every((id) => shown.includes(id))}
            onClick={() => onHidden(columns.filter((c) => !ids.includes(c.id)).map((c) => c.id))}
          >
            <b>{set}</b>
          </MenuItem>
        ))}
        <MenuItem divider onClick={() => (onClose(), setAsking(true))}>
          Column sets…
        </MenuItem>
        {columns.map((c) => (
          <MenuItem
            key={c.id}
            onClick={() => onHidden(hidden.includes(c.id) ? hidden.filter((h) => h !== c.id) : [...hidden, c.id])}
          >
            <Checkbox checked={!hidden.includes(c.id)} tabIndex={-1} slotProps={{ input: { "aria-label": c.label } }} />
            {c.label}
          </MenuItem>
        ))}
      </Menu>
      <Dialog open={asking} onClose={() => setAsking(false)} aria-labelledby="column-sets" fullWidth maxWidth="xs">
        <DialogTitle id="column-sets">Column sets</DialogTitle>
        <DialogContent>
          {Object.entries(sets).map(([set, ids]) => (
            <p key={set} style={{ display: "flex", gap: 10, margin: "4px 0" }}>
              <b>{set}</b>
              <span className="soft">{ids.length} columns</span>
              <button
                className="linkish"
                style={{ marginLeft: "auto" }}
                aria-label={`forget the set ${set}`}
                onClick={() => keep(Object.fromEntries(Object.entries(sets).filter(([other]) => other !== set)))}
              >
                forget
              </button>
            </p>
          ))}
          <TextField
            autoFocus
            label="Keep the columns shown now as"
            value={called}
            onChange={(e) => setCalled(e.target.value)}
            onKeyDown={(e) => e.key === "Enter" && add()}
            sx={{ mt: 1 }}
          />
        </DialogContent>
        <DialogActions>
          <Button onClick={() => setAsking(false)}>Close</Button>
          <Button variant="contained" {...off([!called.trim(), "Give it a name first."])} onClick={add}>
            Keep
          </Button>
        </DialogActions>
      </Dialog>
    </>
  );
}
