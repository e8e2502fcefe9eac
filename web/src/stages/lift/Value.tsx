/** A value of a page in words; members of a group one below the other. */
import { many } from "../../shell/state";
import { isMembers, shown } from "./field";

const MEMBERS = 6; // that are shown

export function Value({ value }: { value: unknown }) {
  if (!isMembers(value)) return <>{shown(value)}</>;
  return (
    <span className="members">
      <span className="soft">{many(value.length, "member")}</span>
      {value.slice(0, MEMBERS).map((member, n) => (
        <span key={n} className="member">
          {Object.entries(member).map(([name, part]) => (
            <span key={name} title={name}>
              {shown(part).slice(0, 160) || "–"}
            </span>
          ))}
        </span>
      ))}
      {value.length > MEMBERS && <span className="soft">and {many(value.length - MEMBERS, "more", "more")}</span>}
    </span>
  );
}
