/** What a change over many items would do, before it is made. */
import type { Schemas } from "../../api/client";
import { count, many, useLink } from "../../shell/state";
import { Addr } from "../../shores/Addr";
import { shown } from "./field";

/** What a change would do: how many, some of them before and after, and where it cannot be done. */
export function Looked({ found }: { found: Schemas["LookedOut"] }) {
  const link = useLink();
  const page = ({ key, address }: Schemas["BeforeAfter"]) => (
    <button type="button" className="linkish" onClick={() => link.set({ page: address })} title={key}>
      <Addr of={key} />
    </button>
  );
  return (
    <div className="looked" role="status" data-testid="looked">
      <b>
        {count(found.changed)} of {count(found.of)} change
      </b>
      {found.shown.map((one) => (
        <div key={one.item} className="value">
          <div>{page(one)}</div>
          <del>{shown(one.before) || "(nothing)"}</del> → <b>{shown(one.after) || "(nothing)"}</b>
        </div>
      ))}
      {Object.entries(found.problems).map(([why, items]) => (
        <div key={why} className="state odd">
          {many(items, "item")} stay{items === 1 ? "s" : ""} as {items === 1 ? "it is" : "they are"}: {why}
        </div>
      ))}
      {found.failing.slice(0, 5).map((one) => (
        <div key={`${one.item} ${one.field}`} className="soft">
          {page(one)} {shown(one.before) || "(nothing)"}
        </div>
      ))}
    </div>
  );
}
