/** The pages of one group of pages made alike. */
import { Go } from "../../shell/Go";
import { count, many } from "../../shell/state";
import { Addr } from "../../shores/Addr";
import { Told } from "../../shores/Told";
import { useGroupPages, type Group } from "./queries";

export function GroupPages({ group, cut }: { group: Group; cut: number }) {
  const found = useGroupPages(cut, group.number);
  const rows = found.data?.rows ?? [];
  return (
    <div className="grouppages" aria-label="Pages of the group">
      <Told error={found.error} />
      <p className="soft">
        {many(group.pages, "page")} of this make
        {(found.data?.total ?? 0) > rows.length && `, the first ${count(rows.length)}`}
      </p>
      <ul>
        {rows.map((page) => (
          <li key={page.address}>
            <Go to={`survey?open=${page.address}`}>
              <Addr of={page.key} />
            </Go>
            <span className="soft">{page.title}</span>
            <span>{page.kind}</span>
          </li>
        ))}
      </ul>
    </div>
  );
}
