/** What may be done with several groups at once: one kind of them, or set aside with a reason. */
import { Button, TextField } from "@mui/material";
import { useState } from "react";
import { BUSY, off } from "../../shell/off";
import { many } from "../../shell/state";
import { Told } from "../../shores/Told";
import { NewKind } from "./NewKind";
import { useAsideGroups, type Group } from "./queries";

interface Props {
  groups: Group[];
  cut: number;
  act: "join" | "aside" | "";
  onAct: (act: "join" | "aside" | "") => void;
  onDone: () => void;
}

export function ChosenGroups({ groups, cut, act, onAct, onDone }: Props) {
  const [reason, setReason] = useState("");
  const aside = useAsideGroups(cut);
  const pages = groups.reduce((sum, g) => sum + g.pages, 0);
  if (!groups.length) return aside.data ? <p role="status">{aside.data.text}. Z takes it back.</p> : null;
  return (
    <div className="chosengroups" role="group" aria-label="Chosen groups">
      <b>
        {many(groups.length, "group")} chosen, {many(pages, "page")}
      </b>
      {act === "join" ? (
        <NewKind
          key={groups.map((g) => g.number).join()}
          groups={groups}
          cut={cut}
          onDone={() => (onAct(""), onDone())}
        />
      ) : act === "aside" ? (
        <form
          className="naming"
          aria-label="Set these groups aside"
          onKeyDown={(e) => e.key === "Escape" && (e.stopPropagation(), onAct(""))}
          onSubmit={(e) => {
            e.preventDefault();
            aside.mutate(
              { numbers: groups.map((g) => g.number), reason },
              { onSuccess: () => (setReason(""), onAct(""), onDone()) },
            );
          }}
        >
          <TextField
            label="Why they are left out"
            value={reason}
            autoFocus
            onChange={(e) => setReason(e.target.value)}
          />
          <Button
            type="submit"
            variant="contained"
            {...off([reason.trim().length < 3, "Give a reason, of three letters or more."], [aside.isPending, BUSY])}
          >
            Set aside
          </Button>
          <Told error={aside.error} />
        </form>
      ) : (
        <span className="acts">
          <Button variant="contained" onClick={() => onAct("join")}>
            {groups.length > 1 ? "Join into one kind" : "New kind"} <kbd>N</kbd>
          </Button>
          <Button variant="outlined" onClick={() => onAct("aside")}>
            Set aside <kbd>S</kbd>
          </Button>
          <button className="linkish" onClick={onDone}>
            choose none
          </button>
        </span>
      )}
    </div>
  );
}
