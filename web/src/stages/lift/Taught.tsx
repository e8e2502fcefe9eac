/** Teaching: what was clicked on captured pages, the ways of reading found for it, and the pages on which they fail. */
import { useCallback, useEffect, useState } from "react";
import type { Schemas } from "../../api/client";
import { count, many } from "../../shell/state";
import { Told } from "../../shores/Told";
import { readsBy, type Field, type Picked } from "./field";
import { useTeach } from "./queries";

type Offer = Schemas["OfferRow"];
export type Example = Schemas["ExampleIn"];

const SEVERAL = ["list", "group"]; // types of which one page may show several members

/** The places that somebody clicked while this field was open, and what they teach. */
export function useTeaching(kind: string, type: Field["type"], picked: Picked | null, onBest: (offer: Offer) => void) {
  const [examples, setExamples] = useState<Example[]>([]);
  const [heeded, setHeeded] = useState(0);
  const { mutate, ...asked } = useTeach(kind);
  const ask = useCallback(
    (next: Example[]) => {
      setExamples(next);
      if (next.length)
        mutate({ type, examples: next }, { onSuccess: (found) => found.offers[0] && onBest(found.offers[0]) });
    },
    [mutate, type, onBest],
  );
  useEffect(() => {
    if (!picked || picked.at === heeded) return;
    setHeeded(picked.at);
    const { address, node } = picked;
    const others = examples.filter((e) =>
      SEVERAL.includes(type) ? e.address !== address || e.node !== node : e.address !== address,
    );
    ask([...others, { address, node }].slice(-12));
  }, [picked, heeded, examples, type, ask]);
  return { examples, asked, drop: (n: number) => ask(examples.filter((_, m) => m !== n)) };
}

interface Props {
  teaching: ReturnType<typeof useTeaching>;
  used: Field["locators"];
  onUse: (offer: Offer) => void;
}

export function Taught({ teaching, used, onUse }: Props) {
  const { examples, asked, drop } = teaching;
  if (!examples.length) return null;
  const offers = asked.data?.offers ?? [];
  const now = JSON.stringify(used.map(readsBy));
  const chosen = offers.find((o) => JSON.stringify(o.locators.map(readsBy)) === now);
  return (
    <div className="taught" aria-label="Taught by example" role="group">
      <div className="acts">
        <span>
          Taught by {many(examples.length, "place")}
          {asked.isPending ? " · looking …" : asked.data ? ` · tried on ${many(asked.data.pages, "page")}` : ""}
        </span>
        <span style={{ flex: 1 }} />
        <button
          type="button"
          className="linkish"
          title="Take the last place back"
          onClick={() => drop(examples.length - 1)}
        >
          take the last back
        </button>
      </div>
      <Told error={asked.error} />
      {offers.map((offer, n) => {
        const said = offer.locators.map(readsBy).join(" · or ");
        return (
          <button
            type="button"
            key={said}
            className={`offer${offer === chosen ? " on" : ""}`}
            aria-pressed={offer === chosen}
            onClick={() => onUse(offer)}
          >
            <span className="mono">{said}</span>
            <span className="soft">
              {n ? "runner-up · " : ""}
              {offer.agreed < examples.length ? `agrees with ${offer.agreed} of ${examples.length} places · ` : ""}
              found on {count(offer.one)} of {count(offer.one + offer.none + offer.several)}
              {offer.several ? `, more than once on ${count(offer.several)}` : ""}
            </span>
          </button>
        );
      })}
      {!!chosen?.fails.length && (
        <div className="soft">It fails on some: go to one of them below, and click the right place on it.</div>
      )}
    </div>
  );
}
