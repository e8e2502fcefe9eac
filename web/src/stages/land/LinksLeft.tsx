/** Links in what landed to pages and files that do not go over: where each stands, and where it leads. */
import { Link } from "react-router";
import { count, many, useCrossingId } from "../../shell/state";
import { Addr } from "../../shores/Addr";

type Left = [page: string, target: string, times: number];

export function LinksLeft({ counts }: { counts: Record<string, unknown> }) {
  const crossing = useCrossingId();
  const rows = (counts.links_left ?? []) as Left[];
  const all = Number(counts.links_left_all ?? 0);
  const to = (key: string) => (
    <Link to={`/c/${crossing}/survey?search=${encodeURIComponent(key)}`}>
      <Addr of={key} />
    </Link>
  );
  return (
    <section className="panel" style={{ flex: 1 }} aria-label="Links left">
      <h2>
        Links left{" "}
        <small>
          {all
            ? `${many(all, "link")} to pages and files that do not go over; each stays as it was. Lead its page somewhere in Route, or take it out in Refit.`
            : "those to pages and files that do not go over"}
        </small>
      </h2>
      <div className="scroll" tabIndex={0} role="region" aria-label="Links to pages and files that do not go over">
        {rows.length > 0 && (
          <table className="plain">
            <thead>
              <tr>
                <th>on the page</th>
                <th>leads to</th>
                <th className="n">times</th>
              </tr>
            </thead>
            <tbody>
              {rows.map(([page, target, times]) => (
                <tr key={`${page} ${target}`}>
                  <td className="mono">{to(page)}</td>
                  <td className="mono">{to(target)}</td>
                  <td className="n">{count(times)}</td>
                </tr>
              ))}
            </tbody>
          </table>
        )}
        {!rows.length && (
          <div className="empty">
            {"links_left" in counts
              ? "Every link in what landed leads to what goes over, or to another site."
              : "Nothing has landed yet. A dry run finds them as well."}
          </div>
        )}
      </div>
    </section>
  );
}
