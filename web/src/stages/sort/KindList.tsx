/** The kinds in their order, with their rules and counts. */
import { count, usePlan } from "../../shell/state";
import { Proposed } from "../../shores/Proposed";
import { ofKind, says } from "./kind";
import { useKinds } from "./queries";

export function KindList({ chosen, onChoose }: { chosen: string; onChoose: (name: string) => void }) {
  const plan = usePlan();
  const counts = useKinds().data;
  return (plan.data?.plan.kinds ?? []).map((kind) => (
    <button
      key={kind.name}
      className={`card${kind.name === chosen ? " on" : ""}`}
      onClick={() => onChoose(kind.name)}
      aria-pressed={kind.name === chosen}
    >
      <span className="top">
        <b>{kind.label || kind.name}</b>
        {kind.items === "none" && <span className="soft">no items</span>}
        {kind.items === "each" && (
          <span className="soft">
            items: each <span className="mono">{kind.each}</span>
          </span>
        )}
        <Proposed said={kind.proposed} part="kind" />
        <em>{counts && count(ofKind(counts.kinds, kind.name).reduce((sum, k) => sum + k.pages, 0))}</em>
      </span>
      <div className="soft">{kind.rules.map(says).join(" or ")}</div>
      {!!kind.languages?.length && (
        <div className="soft">
          once per language:{" "}
          {counts &&
            ofKind(counts.kinds, kind.name)
              .map((k) => `${k.name} ${count(k.pages)}`)
              .join(" · ")}
        </div>
      )}
      {kind.address && <div className="loc">→ {kind.address}</div>}
    </button>
  ));
}
