/** One item landed as a trial, to be looked at on the new site. */
import { Button } from "@mui/material";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { usePlan, useStart } from "../../shell/state";
import { useLive } from "../../shores/Run";
import { Addr } from "../../shores/Addr";
import { Told } from "../../shores/Told";
import { isFolder } from "./forms";
import { useLandingFile, useTrialItems } from "./queries";
import { RUNS, off } from "../../shell/off";

const LACKS: Record<Schemas["Lack"], string> = {
  address: "it has no new address yet",
  field: "required, and empty:",
  value: "stays away, since it does not fit there:",
  template: "no template is named for the kind",
  link: "leads to, or shows, what does not go over:",
  text: "a picture without a text:",
  form: "a form to be wired up, which posted to",
  film: "a film without a picture:",
};

export function Trial() {
  const start = useStart();
  const plan = usePlan();
  const live = useLive(["land"]);
  const [text, setText] = useState("");
  const items = useTrialItems(text);
  const rows = items.data?.rows ?? [];
  const land = plan.data?.plan.land;
  const folder = !!land && isFolder(land.target ?? "jsonapi");
  const host = folder ? "" : (land?.base?.replace(/\/$/, "") ?? "");
  const [shown, setShown] = useState("");
  const file = useLandingFile(folder ? shown : "");
  const list = (
    <section className="panel" style={{ flex: 1 }} aria-label="Trial">
      <h2>
        One item as a trial{" "}
        <small>
          {folder ? "see its file before anything is written" : "its files go first; then look at it on the new site"}
        </small>
        <input
          className="find"
          placeholder="find an item"
          aria-label="find an item"
          value={text}
          onChange={(e) => setText(e.target.value)}
        />
      </h2>
      <Told error={items.error ?? start.error} />
      <div className="scroll" tabIndex={0} role="region" aria-label="Items">
        <table className="plain">
          <tbody>
            {rows.map((item) => (
              <tr key={item.id}>
                <td>{item.title || item.key}</td>
                <td className="soft">{item.kind}</td>
                <td className="mono">{item.new_path}</td>
                <td className="n">
                  <Button
                    variant="outlined"
                    {...off(
                      [!!live, RUNS],
                      [!host && !folder, "Say first which host the new site grows on (Scope & manners)."],
                    )}
                    onClick={() => start.mutate({ kind: "land", trial: item.key })}
                  >
                    Land this one
                  </Button>{" "}
                  {folder ? (
                    <Button onClick={() => setShown(item.key)}>See its file</Button>
                  ) : (
                    <Button
                      component="a"
                      href={host + item.new_path}
                      target="_blank"
                      rel="noreferrer noopener"
                      {...off([!host, "Say first which host the new site grows on (Scope & manners)."])}
                    >
                      Look
                    </Button>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
        {!rows.length && items.data && (
          <div className="empty">No item has a new address yet. Lift, refit and decide first.</div>
        )}
      </div>
    </section>
  );
  if (!folder || !shown) return list;
  return (
    <div className="shores">
      {list}
      <section className="shore new" style={{ flex: 1 }} aria-label="File">
        <h2>
          <span className="mono">{file.data?.file ?? "…"}</span>
        </h2>
        <Told error={file.error} />
        <div className="scroll" tabIndex={0} role="region" aria-label="Text of the file">
          {(file.data?.lacks.length ?? 0) > 0 && (
            <ul className="lacks" aria-label="What it lacks">
              {file.data?.lacks.map(({ what, of }, n) => (
                <li key={n}>
                  <span className="state odd">{LACKS[what]}</span> <Addr of={of} />
                </li>
              ))}
            </ul>
          )}
          <pre className="sheet">{file.data?.text}</pre>
        </div>
      </section>
    </div>
  );
}
