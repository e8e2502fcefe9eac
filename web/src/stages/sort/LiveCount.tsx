/** What the rules of a kind would catch, counted while they are written. */
import { count, many } from "../../shell/state";
import { Told } from "../../shores/Told";
import { readable } from "../../shores/Addr";
import { clear, type Rule } from "./kind";
import { useTriedRules } from "./queries";

/** ``own``: the names of the kind as it is worked with, of which there may be one a language. */
export function LiveCount({ rules, own }: { rules: Rule[]; own: string[] }) {
  const tried = useTriedRules(rules.map(clear));
  const t = tried.data;
  if (tried.error) return <Told error={tried.error} />;
  if (!t) return <div className="told soft">Counting…</div>;
  const here = own.reduce((sum, name) => sum + (name ? (t.now[name] ?? 0) : 0), 0);
  const others = Object.entries(t.now).filter(([name]) => name && !own.includes(name));
  return (
    <div className="told" role="status">
      <b data-testid="rule-count">{count(t.pages)}</b> of {many(t.of, "page")}
      {t.looked < t.to_look && ` (${count(t.looked)} of ${count(t.to_look)} looked into so far; sorting looks at all)`}
      {(t.now[""] ?? 0) > 0 && <> · {count(t.now[""])} of them in no kind now</>}
      {here > 0 && <> · {count(here)} here already</>}
      {others.map(([name, number]) => (
        <span key={name}>
          {" "}
          · {count(number)} now in {name}
        </span>
      ))}
      {t.examples.length > 0 && (
        <div className="mono soft" style={{ overflowWrap: "anywhere" }}>
          {t.examples.slice(0, 5).map(readable).join("  ")}
        </div>
      )}
    </div>
  );
}
