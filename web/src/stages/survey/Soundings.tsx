/** Before the survey: what a handful of requests tell of the site, and what will go over how. */
import { Button, MenuItem, TextField } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { client, take } from "../../api/client";
import { count, many, size, useChangePlan, useCrossingId, usePlan, useStart } from "../../shell/state";
import { useLive } from "../../shores/Run";
import { Told } from "../../shores/Told";

interface System {
  name: string;
  marks: string[];
  known: boolean;
}
interface Found {
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
  estimate?: { pages: number; from: string; seconds: number; bytes: number };
}

const lasting = (s: number) =>
  s < 90 ? `${Math.max(1, Math.round(s))} s` : s < 5400 ? `${Math.round(s / 60)} min` : `${(s / 3600).toFixed(1)} h`;
const bare = (url: string) => url.replace(/^https?:\/\//, "");
const VERDICTS = { "by hand": "by hand", "in part": "in part", "by itself": "by itself" } as Record<string, string>;

/** The system that made the site: the guess with its mark, and the starting rules somebody chose. */
function MadeBy({ systems }: { systems: System[] }) {
  const id = useCrossingId();
  const plan = usePlan();
  const save = useChangePlan();
  const presets = useQuery({
    queryKey: ["presets", id],
    queryFn: () => take(client.GET("/api/crossings/{crossing}/presets", { params: { path: { crossing: id } } })),
  });
  const chosen = plan.data?.plan.survey?.preset ?? "";
  const rules = presets.data?.find((p) => p.name === chosen);
  return (
    <>
      {systems.map((s) => (
        <div key={s.name}>
          <b>{s.name}</b> <span className="soft">by {s.marks.join(", ")}</span>
        </div>
      ))}
      {!systems.length && <div>It does not say.</div>}
      <TextField
        select
        label="Starting rules"
        slotProps={{ select: { displayEmpty: true }, inputLabel: { shrink: true } }}
        value={presets.data ? chosen : ""}
        sx={{ mt: 1, minWidth: 220 }}
        onChange={(e) =>
          save.mutate({
            text: e.target.value ? `starting rules for ${e.target.value}` : "no starting rules",
            change: (p) => void (p.survey = { ...(p.survey as NonNullable<typeof p.survey>), preset: e.target.value }),
            from: plan.data,
          })
        }
      >
        <MenuItem value="">other: none</MenuItem>
        {(presets.data ?? []).map((p) => (
          <MenuItem key={p.name} value={p.name}>
            {p.name}
          </MenuItem>
        ))}
      </TextField>
      <Told error={save.error} />
      {rules && (
        <div className="soft">
          Left out: <span className="mono">{rules.exclude.join("  ")}</span>
          <br />
          Parameters dropped: <span className="mono">{rules.drop.join(" ")}</span>
        </div>
      )}
    </>
  );
}

/** What there is to carry, by family; what is unticked is set aside with its reason. */
function Families() {
  const id = useCrossingId();
  const plan = usePlan();
  const save = useChangePlan();
  const asked = useQuery({
    queryKey: ["families", id, plan.data?.revision],
    queryFn: () => take(client.GET("/api/crossings/{crossing}/families", { params: { path: { crossing: id } } })),
  });
  const flip = (name: string, out: boolean) =>
    save.mutate({
      text: out ? `${name} left out` : `${name} taken`,
      change: (p) =>
        void (p.leave_out = out ? [...(p.leave_out ?? []), name] : (p.leave_out ?? []).filter((n) => n !== name)),
      decide: true,
      from: plan.data,
    });
  return (
    <div className="todo" style={{ display: "block" }}>
      <b style={{ width: "auto" }}>What goes over</b>{" "}
      <span className="soft">what is unticked is set aside on purpose, and listed so</span>
      <Told error={asked.error ?? save.error ?? plan.error} />
      <div
        role="group"
        aria-label="Families"
        style={{ display: "grid", gridTemplateColumns: "1fr 1fr", gap: "2px 14px", paddingTop: 4 }}
      >
        {(asked.data ?? []).map((f) => (
          <label key={f.name} className="check">
            <input
              type="checkbox"
              checked={!f.left_out}
              disabled={save.isPending}
              onChange={(e) => flip(f.name, !e.target.checked)}
            />{" "}
            {f.name} <span className="soft">{count(f.count)}</span>
          </label>
        ))}
      </div>
    </div>
  );
}

function Fitness() {
  const id = useCrossingId();
  const asked = useQuery({
    queryKey: ["fitness", id],
    queryFn: () => take(client.GET("/api/crossings/{crossing}/fitness", { params: { path: { crossing: id } } })),
  });
  const found = asked.data;
  return (
    <section className="panel" style={{ flex: 1 }} aria-label="Fitness">
      <h2>
        Fitness <small>what goes over how, read from the captured pages</small>
      </h2>
      <Told error={asked.error} />
      <div className="scroll" tabIndex={0} role="region" aria-label="Matters">
        {found && found.matters.length > 0 && <Families />}
        {found?.matters.map((m) => (
          <div key={m.name} className="todo" style={{ display: "block" }}>
            <div style={{ display: "flex", gap: 8, alignItems: "baseline" }}>
              <b>{m.name}</b>
              <span className={`pill${m.verdict === "by itself" ? " good" : ""}`}>
                {VERDICTS[m.verdict] ?? m.verdict}
              </span>
              <span className="sp" />
              <span className="nowrap">
                {many(m.pages, "page")}
                {m.times > m.pages && <span className="soft">, {count(m.times)} in all</span>}
              </span>
            </div>
            <div className="soft">{m.says}</div>
            {m.examples.length > 0 && (
              <details open={m.pages <= 4}>
                <summary className="soft">
                  {m.examples.length < m.pages ? `the first ${count(m.examples.length)} pages` : "the pages"}
                </summary>
                {m.examples.map((p) => (
                  <div key={p.address}>
                    <Link className="mono" to={`/c/${id}/survey?open=${p.address}`}>
                      {p.key}
                    </Link>
                  </div>
                ))}
              </details>
            )}
          </div>
        ))}
        {found && !found.matters.length && (
          <div className="empty">
            Nothing is captured yet. After the survey every matter is named here with its pages.
          </div>
        )}
        {found && (
          <div className="todo" style={{ display: "block" }}>
            <b style={{ width: "auto" }}>Never carried</b> <span className="soft">said once; no page's fault</span>
            {found.never.map((line) => (
              <div key={line}>{line}</div>
            ))}
          </div>
        )}
      </div>
    </section>
  );
}

export function Soundings() {
  const id = useCrossingId();
  const start = useStart();
  const live = useLive(["sound", "survey"]);
  const asked = useQuery({
    queryKey: ["soundings", id],
    queryFn: () => take(client.GET("/api/crossings/{crossing}/soundings", { params: { path: { crossing: id } } })),
  });
  const found = (asked.data ?? {}) as Found;
  const s = found.start;
  const say = (name: string) => (s?.[name] ? String(s[name]) : "");
  const sitemaps = found.sitemaps ?? [];
  const madeUp = found["made-up address"];
  return (
    <div className="shores">
      <section className="shore old" style={{ flex: 1 }} aria-label="Soundings">
        <h2>Soundings</h2>
        <div className="acts pad">
          <Button
            variant="outlined"
            disabled={!!live || start.isPending}
            onClick={() => start.mutate({ kind: "sound", pages: 4 })}
          >
            {s ? "Sound again, with four pages on trial" : "Take soundings, with four pages on trial"}
          </Button>
          <span className="soft">keeps no page, counts nothing</span>
        </div>
        <Told error={start.error ?? asked.error} />
        <div className="scroll" tabIndex={0} role="region" aria-label="What was found" style={{ paddingTop: 8 }}>
          {!s && !asked.isPending && (
            <div className="empty">
              A handful of requests tell what the site is like before the survey: who made it, what its robots.txt and
              sitemaps say, whether a login or a browser is needed, how large it is and how long it takes.
            </div>
          )}
          {s && (
            <dl className="facts" style={{ gridTemplateColumns: "110px minmax(0,1fr)" }}>
              <dt>Start</dt>
              <dd>
                answers {say("status")}, “{say("title") || "no title"}”{say("language") && `, ${say("language")}`}
              </dd>
              <dt>Made by</dt>
              <dd>
                <MadeBy systems={s.systems ?? []} />
              </dd>
              <dt>Server</dt>
              <dd>{say("server") || "it does not say"}</dd>
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
                        <span className="mono">{bare(v.url)}</span> {v.url.startsWith("https") ? "secure" : "plain"}:{" "}
                        {v.says}
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
                    {m.fault ||
                      (m.parts ? `an index of ${many(m.parts, "sitemap")}` : many(m.pages, "address", "addresses"))}
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
              {found.estimate && (
                <>
                  <dt>Size</dt>
                  <dd>
                    at least {many(found.estimate.pages, "page")} <span className="soft">by {found.estimate.from}</span>
                    , about {lasting(found.estimate.seconds)} at these manners, {size(found.estimate.bytes)} of markup
                  </dd>
                </>
              )}
            </dl>
          )}
          {found.trial && (
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
                  {found.trial.map((p) => (
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
          )}
        </div>
      </section>
      <Fitness />
    </div>
  );
}
