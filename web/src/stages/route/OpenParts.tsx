/** What stands about the decision over an open address: its captured page, the falling number, the new addresses. */
import { Go } from "../../shell/Go";
import { useCrossingId } from "../../shell/state";
import { PageView } from "../../shores/PageView";
import { Told } from "../../shores/Told";
import { useAddress } from "../survey/addressQueries";
import { useRounds } from "./queries";
import { RoundChart } from "./RoundChart";
import { ShoreTree } from "./ShoreTree";

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
  return (
    <section className="shore new" style={{ flex: "0 0 290px" }} aria-label="New addresses">
      <h2>
        New shore <Go to="route?tab=shore">move parts of it</Go>
      </h2>
      <ShoreTree
        chosen=""
        onChoose={(row) => onChoose(row.here)}
        says={(row) => (row.here ? `${row.title || row.here}: lead the chosen address here` : row.path)}
      />
    </section>
  );
}
