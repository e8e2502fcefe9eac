/** Whether a kind is had once per language, and which ones. */
import { TextField } from "@mui/material";
import { useState } from "react";
import { count } from "../../shell/state";
import { languagesOf } from "./kind";
import { useKinds } from "./queries";

const MOST = 6; // languages that are offered by name

export function Languages({ chosen, onSet }: { chosen: string[]; onSet: (languages: string[]) => void }) {
  const [text, setText] = useState(chosen.join(", "));
  const found = Object.entries(useKinds([]).data?.languages ?? {});
  const set = (written: string) => (setText(written), onSet(languagesOf(written)));
  return (
    <div>
      <TextField
        fullWidth
        label="Once per language (its own kind for each; the first is that of pages that say none)"
        placeholder="en, cy"
        value={text}
        onChange={(e) => set(e.target.value)}
      />
      {found.length > 1 && (
        <div className="counts" style={{ marginTop: 4 }}>
          pages say they are in{" "}
          {found.slice(0, MOST).map(([language, pages]) => (
            <button
              key={language}
              type="button"
              className="linkish"
              aria-pressed={chosen.includes(language)}
              onClick={() =>
                set(
                  (chosen.includes(language) ? chosen.filter((l) => l !== language) : [...chosen, language]).join(", "),
                )
              }
            >
              {language} {count(pages)}
            </button>
          ))}
        </div>
      )}
    </div>
  );
}
