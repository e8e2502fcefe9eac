/** A new address on a host that is none of the crossing's: said before it is taken, since visitors leave the site. */
import { usePlan } from "../../shell/state";

/** The host that an address leaves for, "" for one that stays. */
export function useForeign(to: string): string {
  const ours = usePlan().data?.our_hosts;
  if (!ours || !/^https?:\/\//i.test(to.trim())) return "";
  try {
    const { host } = new URL(to.trim());
    return ours.includes(host) ? "" : host;
  } catch {
    return ""; // no address at all: told when it is taken
  }
}

export function Foreign({ host }: { host: string }) {
  if (!host) return null;
  return (
    <div className="warn" role="status">
      {host} is none of this crossing’s hosts: visitors would leave the site. Is that meant?
    </div>
  );
}
