/** The header: crossing, go-to, jobs with progress, help, the reader's own settings. */
import { Dialog, DialogContent, DialogTitle, Divider, Menu, MenuItem } from "@mui/material";
import { useState } from "react";
import { Link, useLocation, useNavigate } from "react-router";
import mark from "../mark.svg";
import { myName, type Schemas } from "../api/client";
import { Behind } from "./Behind";
import { HELP } from "./help";
import { JobLine } from "./Jobs";
import { keysNow, useKeys, type Key } from "./keys";
import { Palette } from "./Palette";
import { useCrossings } from "./queries";
import { NAME_ASKED } from "./Root";
import { setScheme, useScheme } from "./scheme";
import { useUnsavedText } from "./unsaved";

export function Head({ crossing }: { crossing?: Schemas["CrossingOut"] }) {
  const [palette, setPalette] = useState(false);
  const [help, setHelp] = useState<Key[] | null>(null);
  const [me, setMe] = useState<HTMLElement | null>(null);
  const [others, setOthers] = useState<HTMLElement | null>(null);
  const scheme = useScheme();
  const unsaved = useUnsavedText();
  const navigate = useNavigate();
  const view = useLocation().pathname.split("/")[3] || (crossing ? "manifest" : "crossings");
  const all = useCrossings(others !== null);
  useKeys([
    { key: "Ctrl+k", says: "go to an address, an item or a command", run: () => setPalette(true) },
    { key: "?", says: "this help", run: () => setHelp(keysNow()) },
  ]);
  const about = HELP[view] ?? HELP.crossings;
  return (
    <header>
      <Link className="mark" to="/" title="All crossings">
        <img src={mark} alt="" />
        Grand Ferry
      </Link>
      {crossing && (
        <button
          className="crossing"
          title={crossing.name}
          aria-haspopup="menu"
          onClick={(e) => setOthers(e.currentTarget)}
        >
          {crossing.name} <span aria-hidden>▾</span>
        </button>
      )}
      <Menu
        anchorEl={others}
        open={others !== null}
        onClose={() => setOthers(null)}
        slotProps={{ list: { "aria-label": "Crossings", dense: true } }}
      >
        {(all.data ?? []).slice(0, 20).map((c) => (
          <MenuItem
            key={c.id}
            selected={c.id === crossing?.id}
            onClick={() => (setOthers(null), void navigate(`/c/${c.id}/manifest`))}
          >
            {c.name}
          </MenuItem>
        ))}
        <Divider />
        <MenuItem onClick={() => (setOthers(null), void navigate("/"))}>All crossings, a new one</MenuItem>
      </Menu>
      {crossing && <Behind />}
      {unsaved && (
        <span className="pill" role="status" title={unsaved}>
          not saved: {unsaved}
        </span>
      )}
      <button className="goto" onClick={() => setPalette(true)}>
        <span>Go to an address, an item, a command</span>
        <kbd>Ctrl K</kbd>
      </button>
      {crossing && <JobLine />}
      <button className="round" aria-label="Help" title="Help and keys (?)" onClick={() => setHelp(keysNow())}>
        ?
      </button>
      <button
        className="round"
        aria-label="You and the looks"
        title={myName() || "Your name"}
        aria-haspopup="menu"
        onClick={(e) => setMe(e.currentTarget)}
      >
        {(myName() || "–").slice(0, 1).toUpperCase()}
      </button>
      <Menu
        anchorEl={me}
        open={me !== null}
        onClose={() => setMe(null)}
        slotProps={{ list: { "aria-label": "You", dense: true } }}
      >
        <MenuItem onClick={() => (setMe(null), void dispatchEvent(new Event(NAME_ASKED)))}>
          {myName() || "No name yet"} – change the name
        </MenuItem>
        <MenuItem onClick={() => (setMe(null), setScheme(scheme === "dark" ? "light" : "dark"))}>
          {scheme === "dark" ? "Light" : "Dark"} looks
        </MenuItem>
      </Menu>
      {palette && <Palette crossing={crossing} onClose={() => setPalette(false)} onHelp={() => setHelp(keysNow())} />}
      <Dialog open={help !== null} onClose={() => setHelp(null)} aria-labelledby="help-title" maxWidth="sm" fullWidth>
        <DialogTitle id="help-title">{about?.title}</DialogTitle>
        <DialogContent>
          <p style={{ marginTop: 0 }}>{about?.text}</p>
          <dl className="keys">
            <dt>
              <kbd>ESC</kbd>
            </dt>
            <dd>out of a field, so that the keys below work</dd>
            {help?.map((key) => (
              <div key={key.key} style={{ display: "contents" }}>
                <dt>
                  <kbd>{key.key.replace("Ctrl+k", "Ctrl K").toUpperCase()}</kbd>
                </dt>
                <dd>{key.says}</dd>
              </div>
            ))}
          </dl>
        </DialogContent>
      </Dialog>
    </header>
  );
}
