/** The keys in the pages' code: what is masked, and what a person lets go over as it is. */
import { Link } from "react-router";
import { many, useChangePlan, useCrossingId, usePlan } from "../../shell/state";
import { Told } from "../../shores/Told";
import { useKeys } from "./queries";
import { BUSY, off } from "../../shell/off";

const UNKNOWN = "Read by an older version: survey again, then it can be decided on.";

export function Keys() {
  const id = useCrossingId();
  const plan = usePlan();
  const save = useChangePlan();
  const asked = useKeys(plan.data?.revision);
  const flip = (mark: string, name: string, carried: boolean) =>
    save.mutate({
      text: carried ? `key ${name} goes over as it is` : `key ${name} masked`,
      change: (p) =>
        void (p.carried_keys = [
          ...(p.carried_keys ?? []).filter((key) => key.mark !== mark),
          ...(carried ? [{ mark, name }] : []),
        ]),
      from: plan.data,
    });
  return (
    <>
      <Told error={asked.error ?? save.error ?? plan.error} />
      {!!asked.data?.length && (
        <table className="plain" aria-label="Keys">
          <thead>
            <tr>
              <th>goes over as it is</th>
              <th>key</th>
              <th>stands on</th>
            </tr>
          </thead>
          <tbody>
            {asked.data.map((k) => (
              <tr key={k.name + k.shown + k.mark}>
                <td>
                  <input
                    type="checkbox"
                    aria-label={`${k.name} ${k.shown} goes over as it is`}
                    checked={k.carried}
                    {...off([save.isPending, BUSY], [!k.mark, UNKNOWN])}
                    onChange={(e) => flip(k.mark, k.name, e.target.checked)}
                  />
                </td>
                <td className="mono">
                  {k.name} <span className="soft">{k.shown}</span>
                </td>
                <td>
                  <Link className="mono" to={`/c/${id}/survey?open=${k.address}`}>
                    {k.key}
                  </Link>
                  {k.pages > 1 && <span className="soft"> and {many(k.pages - 1, "more page")}</span>}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </>
  );
}
