/** Ctrl+K: addresses, items and commands by a few letters. */
import { Dialog } from "@mui/material";
import { useDeferredValue, useEffect, useRef, useState } from "react";
import { useNavigate } from "react-router";
import type { Schemas } from "../api/client";
import { useFound, useJobKinds } from "./queries";
import { setScheme, useScheme } from "./scheme";
import { useStart } from "./state";
import { Told } from "../shores/Told";

interface Entry {
  id: string;
  text: string;
  sort: string;
  mono?: boolean;
  run: () => void;
}

export function Palette({
  crossing,
  onClose,
  onHelp,
}: {
  crossing?: Schemas["CrossingOut"];
  onClose: () => void;
  onHelp: () => void;
}) {
  const [text, setText] = useState("");
  const [at, setAt] = useState(0);
  const wanted = useDeferredValue(text.trim());
  const navigate = useNavigate();
  const scheme = useScheme();
  const start = useStart();
  const id = crossing?.id ?? 0;
  const kinds = useJobKinds();
  const found = useFound(id, wanted);
  const to = (view: string) => void navigate(`/c/${id}/${view}`);
  const commands: Entry[] = [
    ...(id
      ? [
          ...["manifest", "survey", "sort", "lift", "refit", "route", "land", "media"].map((v) => ({
            id: `to-${v}`,
            text: `Go to ${v[0]?.toUpperCase()}${v.slice(1)}`,
            sort: "view",
            run: () => to(v),
          })),
          { id: "to-new", text: "Go to Survey of the new site", sort: "view", run: () => to("survey?side=new") },
          ...(kinds.data ?? [])
            .filter((kind) => kind.by_hand)
            .flatMap((kind) =>
              (kind.sided ? (["old", "new"] as const) : [undefined]).map((side) => ({
                id: `run-${kind.name}-${side}`,
                text: side ? `${kind.doing} of the ${side} site` : kind.doing,
                sort: "run",
                run: () => start.mutate({ kind: kind.name as Schemas["JobIn"]["kind"], ...(side && { side }) }),
              })),
            ),
          {
            id: "dry",
            text: "Dry run of the landing",
            sort: "run",
            run: () => start.mutate({ kind: "land" as const, dry: true }),
          },
        ]
      : []),
    { id: "home", text: "All crossings", sort: "view", run: () => void navigate("/") },
    { id: "help", text: "Help and keys", sort: "command", run: onHelp },
    {
      id: "looks",
      text: scheme === "dark" ? "Light looks" : "Dark looks",
      sort: "command",
      run: () => setScheme(scheme === "dark" ? "light" : "dark"),
    },
  ];
  const low = wanted.toLowerCase();
  const entries: Entry[] = [
    ...commands.filter((c) => !low || c.text.toLowerCase().includes(low)),
    ...(found.data?.addresses ?? []).map((a) => ({
      id: `a${a.id}`,
      text: a.key,
      sort: a.title || a.fate,
      mono: true,
      run: () => to(`survey?open=${a.id}`),
    })),
    ...(found.data?.items ?? []).map((i) => ({
      id: `i${i.id}`,
      text: i.title || i.key,
      sort: `item · ${i.kind}`,
      run: () => to(`lift?kind=${encodeURIComponent(i.kind)}&page=${i.address ?? ""}`),
    })),
  ];
  const here = Math.min(at, Math.max(0, entries.length - 1));
  const run = (entry: Entry | undefined) => {
    if (!entry) return;
    onClose();
    entry.run();
  };
  // Enter pressed before the answer is there means the first of what is coming, not of what was shown for fewer letters
  const pending = text.trim() !== wanted || (found.isFetching && !found.data);
  const soon = useRef(false);
  useEffect(() => {
    if (!soon.current || pending || !entries[here]) return; // what comes late, as after an answer that failed, counts
    soon.current = false;
    run(entries[here]);
  });
  return (
    <Dialog
      open
      onClose={onClose}
      fullWidth
      maxWidth="sm"
      slotProps={{ paper: { className: "palette", "aria-label": "Go to", sx: { alignSelf: "flex-start", mt: 8 } } }}
    >
      <input
        autoFocus
        value={text}
        placeholder="Go to an address, an item, a command"
        aria-label="Go to an address, an item, a command"
        role="combobox"
        aria-expanded="true"
        aria-controls="palette-list"
        aria-activedescendant={entries[here] ? `palette-${entries[here].id}` : undefined}
        onChange={(e) => {
          soon.current = false;
          setText(e.target.value);
          setAt(0);
        }}
        onKeyDown={(e) => {
          if (e.key === "ArrowDown") setAt(Math.min(here + 1, entries.length - 1));
          else if (e.key === "ArrowUp") setAt(Math.max(here - 1, 0));
          else if (e.key === "Enter" && (pending || !entries[here])) soon.current = true;
          else if (e.key === "Enter") run(entries[here]);
          else return;
          e.preventDefault();
        }}
      />
      <Told error={found.error ?? kinds.error ?? start.error} />
      <ul id="palette-list" role="listbox" aria-label="Found">
        {entries.map((entry, n) => (
          <li
            key={entry.id}
            id={`palette-${entry.id}`}
            role="option"
            aria-selected={n === here}
            onMouseMove={() => setAt(n)}
            onClick={() => run(entry)}
            ref={(el) => {
              if (n === here) void el?.scrollIntoView({ block: "nearest" });
            }}
          >
            <span className={entry.mono ? "mono" : ""}>{entry.text}</span>
            <small>{entry.sort}</small>
          </li>
        ))}
      </ul>
      {!entries.length && (
        <p className="soft pad" role="status" style={{ margin: 0 }}>
          {pending ? "Looking …" : "Nothing is called like that."}
        </p>
      )}
    </Dialog>
  );
}
