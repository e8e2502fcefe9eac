/** The new shore: its addresses as a tree, what leads to each, and moving a part of it. */
import { Button, TextField } from "@mui/material";
import { useRef, useState } from "react";
import { Go } from "../../shell/Go";
import { useKeys } from "../../shell/keys";
import { BUSY, off } from "../../shell/off";
import { count, many, useLink } from "../../shell/state";
import { useSettled } from "../../shell/settled";
import { useUnsaved } from "../../shell/unsaved";
import { Addr } from "../../shores/Addr";
import { FateMark } from "../../shores/Fate";
import { Empty, Told } from "../../shores/Told";
import { useLookAtMove, useMovePlace, useShorePlace } from "./shoreQueries";
import { lastOf, ShoreTree } from "./ShoreTree";

export function Shore() {
  const link = useLink();
  const moving = useMovePlace();
  const place = link.get("place");
  const [written, setWritten] = useState({ of: "", to: "" });
  const to = written.of === place ? written.to : ""; // what is written belongs to one place
  const dropped = (path: string, onto: string) => {
    if (path === onto) return;
    link.set({ place: path }, true);
    setWritten({ of: path, to: (onto === "/" ? "" : onto) + lastOf(path) });
  };
  return (
    <div className="shores">
      <section className="shore new" style={{ flex: 1 }} aria-label="The new shore as a tree">
        <h2>
          New shore <small>by address</small>
        </h2>
        <ShoreTree
          chosen={place}
          onChoose={(row) => link.set({ place: row.path }, true)}
          onDrop={dropped}
          says={(row) => row.title || `${many(row.below, "address", "addresses")} below ${row.path}`}
        />
      </section>
      <section className="panel" style={{ flex: 1.3 }} aria-label="One place of the new shore">
        {place ? (
          <One
            key={place}
            place={place}
            to={to}
            moving={moving}
            setTo={(now) => setWritten({ of: place, to: now })}
            onMoved={(now) => link.set({ place: now }, true)}
          />
        ) : (
          <Empty title="Choose a place, or drag one onto another.">
            What is moved takes along all that lies below it, and the old addresses that lead there.
          </Empty>
        )}
      </section>
    </div>
  );
}

interface OneProps {
  place: string;
  to: string;
  moving: ReturnType<typeof useMovePlace>;
  setTo: (to: string) => void;
  onMoved: (now: string) => void;
}

function One({ place, to, moving, setTo, onMoved }: OneProps) {
  const found = useShorePlace(place);
  const [withRule, setWithRule] = useState(true);
  const field = useRef<HTMLInputElement>(null);
  const asked = useSettled(to.trim());
  const looked = useLookAtMove(place, asked);
  const look = looked.data;
  useUnsaved("move", to && to !== place ? `the new place of ${place}` : "", "place");
  useKeys([{ key: "m", says: "move this place: write its new address", run: () => field.current?.focus() }]);
  const ready = !!look && !looked.error && asked === to.trim();
  const move = () =>
    ready &&
    moving.mutate(
      { path: place, to: to.trim(), rule: withRule && look.rule !== null },
      { onSuccess: (made) => (setTo(""), onMoved(made.to)) },
    );
  const there = found.data;
  return (
    <>
      <h2 style={{ display: "block" }}>
        <Addr of={there?.here || place} whole />
      </h2>
      <div className="scroll form">
        <Told error={found.error ?? moving.error} />
        {there && (
          <dl className="facts">
            <dt>Title</dt>
            <dd>{there.title || <span className="soft">{there.here ? "none" : "no page of its own is here"}</span>}</dd>
            <dt>Below it</dt>
            <dd>{many(there.below, "address", "addresses")}</dd>
            <dt>Led to</dt>
            <dd>
              by {many(there.leading, "old address", "old addresses")}, {many(there.visits, "visit")}
            </dd>
          </dl>
        )}
        <form
          className="two"
          aria-label="Move it"
          onSubmit={(e) => {
            e.preventDefault();
            move();
          }}
        >
          <TextField
            inputRef={field}
            sx={{ flex: 1 }}
            label="Move it to"
            placeholder={`/another/folder${lastOf(place)}`}
            value={to}
            onChange={(e) => setTo(e.target.value)}
            slotProps={{ htmlInput: { className: "mono", spellCheck: false } }}
          />
          <Button
            type="submit"
            variant="contained"
            {...off(
              [!to.trim(), "Write its new address first, or drag it in the tree."],
              [!ready, "What this would do has to be seen first."],
              [moving.isPending, BUSY],
            )}
          >
            Move
          </Button>
        </form>
        {to.trim() && to.trim() !== place && <Told error={looked.error} />}
        {to.trim() && looked.isFetching && <p className="soft">Working out what moves …</p>}
        {to.trim() && ready && (
          <section aria-label="What moves">
            <p>
              <b>{many(look.total, "old address", "old addresses")}</b> would lead to a new place; linked in texts at{" "}
              {many(look.links, "place")}, which follow.
              {look.pairs > 0 &&
                ` ${many(look.pairs, "pair")} would say so, and lock ${look.pairs === 1 ? "it" : "them"}.`}
            </p>
            {look.said.length > 0 && (
              <ul className="moves">
                {look.said.map((one) => (
                  <li key={`${one.of} ${one.was}`}>
                    {one.of}: <span className="mono">{one.was}</span> becomes{" "}
                    <span className="mono">{one.becomes}</span>
                  </li>
                ))}
              </ul>
            )}
            {look.rule && (
              <label style={{ display: "block" }}>
                <input type="checkbox" checked={withRule} onChange={(e) => setWithRule(e.target.checked)} /> with a rule
                for all old addresses like these: <span className="mono">{look.rule.old}</span> ➜{" "}
                <span className="mono">{look.rule.new}</span>, settles {count(look.rule.settles)}
              </label>
            )}
            <ul className="moves">
              {look.rows.slice(0, 40).map((row) => (
                <li key={row.old}>
                  <Addr of={row.old} /> ➜ <Addr of={row.becomes} />
                </li>
              ))}
            </ul>
            {look.total > 40 && <p className="soft">… {count(look.total - 40)} more</p>}
          </section>
        )}
        {moving.data?.to === place && !to && (
          <p className="told" role="status">
            {moving.data.text}. Z takes it back.
          </p>
        )}
        {!to && there && there.rows.length > 0 && (
          <section aria-label="Old addresses that lead here">
            <h3>Old addresses that lead here</h3>
            {there.rows.slice(0, 60).map((row) => (
              <div key={row.id} className="grp">
                <Go to={`survey?open=${row.id}`} className="row">
                  <FateMark fate={row.fate} proven={false} />
                  <Addr of={row.key} />
                  <em>{row.origin}</em>
                </Go>
              </div>
            ))}
            {there.leading > 60 && <p className="soft">… {count(there.leading - 60)} more</p>}
          </section>
        )}
      </div>
    </>
  );
}
