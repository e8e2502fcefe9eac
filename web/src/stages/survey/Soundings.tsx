/** Before the survey: what a handful of requests tell of the site, and what will go over how. */
import { Button } from "@mui/material";
import { useStart } from "../../shell/state";
import { useLive } from "../../shores/Run";
import { Told } from "../../shores/Told";
import { Fitness } from "./Fitness";
import { useSide, useSoundings } from "./queries";
import { Sounded, Trial, type Found } from "./Sounded";
import { BUSY, RUNS, off } from "../../shell/off";

export function Soundings() {
  const side = useSide();
  const start = useStart();
  const live = useLive(["sound", "survey"], side);
  const asked = useSoundings();
  const found = (asked.data ?? {}) as Found;
  const s = found.start;
  return (
    <div className="shores">
      <section className={`shore ${side}`} style={{ flex: 1 }} aria-label="Soundings">
        <h2>Soundings</h2>
        <div className="acts pad">
          <Button
            variant="outlined"
            {...off([!!live, RUNS], [start.isPending, BUSY])}
            onClick={() => start.mutate({ kind: "sound", pages: 4, side })}
          >
            {s ? "Sound again, with four pages on trial" : "Take soundings, with four pages on trial"}
          </Button>
          <span className="soft">keeps no page, counts nothing</span>
        </div>
        <Told error={start.error ?? asked.error} />
        <div className="scroll" tabIndex={0} role="region" aria-label="What was found" style={{ paddingTop: 8 }}>
          {!s && !asked.isPending && (
            <div className="empty">
              A handful of requests tell what the site is like before the survey: who made it, what its robots.txt and
              sitemaps say, whether a login or a browser is needed, how large it is and how long it takes.
            </div>
          )}
          {s && <Sounded found={found} />}
          {found.trial && <Trial pages={found.trial} />}
        </div>
      </section>
      {side === "old" && <Fitness />}
    </div>
  );
}
