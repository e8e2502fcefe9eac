/** What soundings found out about a site, matter by matter, and the pages read on trial. */
import { count, many, size } from "../../shell/state";
import { MadeBy, type System } from "./MadeBy";
import { NOT_ASKED } from "./queries";

export interface Found {
  start?: Record<string, unknown> & { systems?: System[] };
  robots?: { delay: number; sitemaps: string[]; rules?: number; "start allowed"?: boolean };
  variants?: { url: string; status: number; says: string; same: boolean }[];
  "made-up address"?: { status: number; error: string };
  sitemaps?: { url: string; pages: number; parts?: number; fault: string }[];
  trial?: {
    url: string;
    status: number;
    title: string;
    words: number;
    links: number;
    encoding: string;
    note: string;
  }[];
  changing?: { says: string[] };
  estimate?: { pages: number; from: string; seconds: number; bytes: number };
}

const lasting = (s: number) =>
  s < 90 ? `${Math.max(1, Math.round(s))} s` : s < 5400 ? `${Math.round(s / 60)} min` : `${(s / 3600).toFixed(1)} h`;
const bare = (url: string) => url.replace(/^https?:\/\//, "");
/** ``found.start`` is there. */
export function Sounded({ found }: { found: Found }) {
  const s = found.start ?? {};
  const say = (name: string) => (s[name] ? String(s[name]) : "");
  const sitemaps = found.sitemaps ?? [];
  const madeUp = found["made-up address"];
  return (
    <dl className="facts" style={{ gridTemplateColumns: "110px minmax(0,1fr)" }}>
      <dt>Start</dt>
      <dd>
        answers {say("status")}, “{say("title") || "no title"}”{say("language") && `, ${say("language")}`}
      </dd>
      <dt>Made by</dt>
      <dd>
        <MadeBy systems={s.systems} />
      </dd>
      <dt>Server</dt>
      <dd>{say("server") || ("server" in s ? "it does not say" : NOT_ASKED)}</dd>
      <dt>Encoding</dt>
      <dd>
        {say("encoding") || "–"}{" "}
        {say("encoding decided by") && <span className="soft">by {say("encoding decided by")}</span>}
        {say("encoding doubtful") && <div>doubtful: {say("encoding doubtful")}</div>}
      </dd>
      <dt>Scripts</dt>
      <dd>
        {s["needs scripts"]
          ? "the start page shows its content only when its scripts run"
          : `pages show their content without (${count(Number(s.words ?? 0))} words on the start)`}
      </dd>
      <dt>Login</dt>
      <dd>{say("login") || "none asked for at the start"}</dd>
      {found.variants && (
        <>
          <dt>Variants</dt>
          <dd>
            {found.variants.map((v) => (
              <div key={v.url}>
                <span className="mono">{bare(v.url)}</span> {v.url.startsWith("https") ? "secure" : "plain"}: {v.says}
              </div>
            ))}
          </dd>
        </>
      )}
      <dt>robots.txt</dt>
      <dd>
        {found.robots?.rules ? many(found.robots.rules, "rule") : "no rules"}
        {found.robots?.delay ? `, asks for ${found.robots.delay} s between requests` : ""}
        {found.robots?.["start allowed"] === false && "; it asks us to leave the start alone"}
      </dd>
      <dt>Sitemaps</dt>
      <dd>
        {sitemaps.map((m) => (
          <div key={m.url}>
            <span className="mono">{bare(m.url)}</span>{" "}
            {m.fault || (m.parts ? `an index of ${many(m.parts, "sitemap")}` : many(m.pages, "address", "addresses"))}
          </div>
        ))}
        {!sitemaps.length && "none found"}
      </dd>
      <dt>A made-up address</dt>
      <dd>
        {madeUp
          ? madeUp.status === 200
            ? "answers 200: pages like that answer are taken for error pages"
            : madeUp.error || `answers ${madeUp.status}, as it should`
          : "–"}
      </dd>
      {found.changing && (
        <>
          <dt>At every request</dt>
          <dd>
            {found.changing.says.map((line) => (
              <div key={line} className="mono">
                {line}
              </div>
            ))}
            {found.changing.says.length
              ? "changes, and counts as no change of a page"
              : "nothing changes: pages asked twice were the same, or as captured"}
          </dd>
        </>
      )}
      {found.estimate && (
        <>
          <dt>Size</dt>
          <dd>
            at least {many(found.estimate.pages, "page")} <span className="soft">by {found.estimate.from}</span>, about{" "}
            {lasting(found.estimate.seconds)} at these manners, {size(found.estimate.bytes)} of markup
          </dd>
        </>
      )}
    </dl>
  );
}

export function Trial({ pages }: { pages: NonNullable<Found["trial"]> }) {
  return (
    <div className="pad" style={{ paddingTop: 10 }}>
      <b>On trial</b>
      <table className="plain">
        <thead>
          <tr>
            <th>page</th>
            <th>title</th>
            <th className="n">words</th>
            <th>remark</th>
          </tr>
        </thead>
        <tbody>
          {pages.map((p) => (
            <tr key={p.url}>
              <td className="mono">{bare(p.url).replace(/^[^/]+/, "")}</td>
              <td>{p.title || "–"}</td>
              <td className="n">{count(p.words)}</td>
              <td>{p.note || (p.status === 200 ? "" : p.status)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
