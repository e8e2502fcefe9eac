/** One filter of a list of addresses: its values with the number of addresses each would show. */
import { Checkbox, Menu, MenuItem } from "@mui/material";
import { useState } from "react";
import { count, useLink } from "../../shell/state";
import { Told } from "../../shores/Told";
import { useChoices, type Asked } from "./addressQueries";

export function FilterChip({ name, label, asked }: { name: string; label: string; asked: Asked }) {
  const link = useLink();
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const chosen = link.all(name);
  const choices = useChoices(name, asked, anchor !== null);
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
