/** What stands about the decision over an open address: its captured page, the falling number, the new addresses. */
import { useState } from "react";
import { many, useCrossingId } from "../../shell/state";
import { Addr } from "../../shores/Addr";
import { PageView } from "../../shores/PageView";
import { Told } from "../../shores/Told";
import { useAddress } from "../survey/addressQueries";
import { useNewAddresses, useRounds } from "./queries";
import { RoundChart } from "./RoundChart";

/** The captured page of the address that is decided over, when it is a page. */
export function Captured({ address }: { address: number }) {
  const id = useCrossingId();
  const found = useAddress(address);
  if (found.error) return <Told error={found.error} />;
  if (!found.data?.preview) return null;
  return (
    <div className="bodyframe" style={{ flex: "1 0 240px", paddingBottom: 4 }}>
      <PageView
        key={address}
        path={`/page/${id}/${address}/${found.data.preview}`}
        title={`Captured page ${found.data.key}`}
        small
      />
    </div>
  );
}

export function Falling() {
  const rounds = useRounds();
  if (!rounds.data?.some((r) => r.ended)) return null;
  return (
    <div className="pad" style={{ paddingTop: 6 }}>
      <RoundChart rounds={rounds.data} />
    </div>
  );
}

export function NewAddresses({ onChoose }: { onChoose: (path: string) => void }) {
  const [text, setText] = useState("");
  const items = useNewAddresses(text);
  const rows = items.data?.rows ?? [];
  return (
    <section className="shore new" style={{ flex: "0 0 290px" }} aria-label="New addresses">
      <h2>
        New shore <small>{many(items.data?.total ?? 0, "item")}</small>
      </h2>
      <div className="pad" style={{ paddingBottom: 6 }}>
        <input
          className="find"
          style={{ width: "100%" }}
          placeholder="find a new address or title"
          aria-label="find a new address or title"
          value={text}
          onChange={(e) => setText(e.target.value)}
        />
      </div>
      <Told error={items.error} />
      <div className="scroll">
        {rows.map((item) => (
          <div className="grp" key={item.id}>
            <button
              className="row"
              style={{ paddingLeft: 12 }}
              onClick={() => onChoose(item.new_path)}
              title={`${item.title}: lead the chosen address here`}
            >
              <Addr of={item.new_path} />
            </button>
          </div>
        ))}
        {!rows.length && items.data && (
          <div className="empty">No item has a new address yet. Lift the pages, then decide the fates.</div>
        )}
      </div>
    </section>
  );
}
