/** One field: its type, how it is read, its treatments; its values on a few pages as it is written. */
import { Button, MenuItem, TextField } from "@mui/material";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useDeferredValue, useEffect, useRef, useState } from "react";
import { client, Problem, take, type Schemas } from "../../api/client";
import { useChangePlan, useCrossingId } from "../../shell/state";
import { useUnsaved } from "../../shell/unsaved";
import { Told } from "../../shores/Told";

export type Field = NonNullable<NonNullable<Schemas["PlanDocument"]["plan"]["kinds"]>[number]["fields"]>[number];
type Locator = Schemas["Locator"];
const TYPES: [Field["type"], string][] = [
  ["line", "one line of text"],
  ["passage", "plain text of several lines"],
  ["blocks", "the body, as blocks"],
  ["date", "date"],
  ["number", "number"],
  ["choice", "one of a few"],
  ["list", "list"],
  ["picture", "picture"],
];
const WAYS: [keyof Locator, string][] = [
  ["css", "CSS selector"],
  ["label", "beside the label"],
  ["meta", "meta name"],
  ["address", "address pattern"],
];

export const readsBy = (locator: Locator) => {
  const way = WAYS.find(([name]) => locator[name] != null);
  return way
    ? `${way[0] === "css" ? "" : `${way[1]} `}${locator[way[0]]}${locator.attribute ? ` @${locator.attribute}` : ""}`
    : "";
};

export function shown(value: unknown): string {
  if (value === null || value === undefined) return "";
  if (Array.isArray(value)) return value.map(shown).join(" · ");
  if (typeof value === "object") {
    const v = value as Record<string, unknown>;
    if (Array.isArray(v.nodes)) return `${v.nodes.length} part${v.nodes.length === 1 ? "" : "s"} of the page`;
    return [v.src, v.alt && `“${String(v.alt)}”`].filter(Boolean).join(" ");
  }
  return String(value);
}

/** Treatments as text, one a line: “trim”, “first number”, “replace: pattern => text”, “date: %d %B %Y”, … */
export function treatText(field: Field): string {
  return (field.treat ?? [])
    .map((t) => {
      const [name, value] = Object.entries(t).find(([, v]) => v !== null && v !== undefined) ?? [];
      if (!name) return "";
      const word = name.replace("_", " ");
      if (value === true) return word;
      if (name === "replace" && Array.isArray(value)) return `replace: ${value[0]} => ${value[1]}`;
      return `${word}: ${Array.isArray(value) ? value.join(" | ") : String(value)}`;
    })
    .filter(Boolean)
    .join("\n");
}

export function treatFrom(text: string): unknown[] {
  return text
    .split("\n")
    .map((l) => l.trim())
    .filter(Boolean)
    .map((line) => {
      const [word = "", ...rest] = line.split(":");
      const name = word.trim().replace(" ", "_");
      const value = rest.join(":").trim();
      if (!value) return { [name]: true };
      if (name === "replace") {
        const [from = "", to = ""] = value.split("=>");
        return { replace: [from.trim(), to.trim()] };
      }
      if (name === "date" && value.includes("|")) return { date: value.split("|").map((v) => v.trim()) };
      return { [name]: value };
    });
}

export function useTried(draft: Field | null, kind: string, addresses: number[]) {
  const id = useCrossingId();
  const wanted = useDeferredValue(JSON.stringify({ field: draft, kind, addresses }));
  const [asked, setAsked] = useState(wanted);
  useEffect(() => {
    const timer = window.setTimeout(() => setAsked(wanted), 150);
    return () => clearTimeout(timer);
  }, [wanted]);
  return useQuery({
    queryKey: ["try-field", id, asked],
    enabled: draft !== null && (draft.locators?.length ?? 0) > 0,
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) =>
      take(
        client.POST("/api/crossings/{crossing}/fields/try", {
          params: { path: { crossing: id } },
          body: JSON.parse(asked) as Schemas["TryIn"],
          signal,
        }),
      ),
  });
}

const usable = (draft: Field): Field => ({
  ...draft,
  name: /^[a-z][a-z0-9_]*$/.test(draft.name) ? draft.name : "field",
  locators: draft.locators.filter((l) => WAYS.some(([w]) => l[w])),
});

export function FieldEditor({
  field,
  index,
  kind,
  page,
  onDone,
  picked,
  onTried,
}: {
  field: Field;
  index: number;
  kind: string;
  page: number;
  onDone: (name: string | null) => void;
  picked: { css: string; at: number } | null;
  onTried: (nodes: number[]) => void;
}) {
  const [draft, setDraft] = useState(field);
  const [treat, setTreat] = useState(treatText(field));
  const [five, setFive] = useState(false);
  const save = useChangePlan();
  const form = useRef<HTMLFormElement>(null);
  useEffect(() => {
    void form.current?.scrollIntoView({ block: "start" });
  }, [page]); // the cards above it grow with the values of the page
  const fresh = index < 0;
  const full: Field = { ...draft, treat: treatFrom(treat) as Field["treat"] };
  const dirty =
    fresh ||
    JSON.stringify({ ...full, treat: [] }) !== JSON.stringify({ ...field, treat: [] }) ||
    treat !== treatText(field);
  useUnsaved("field", dirty && !save.isSuccess ? `the field ${draft.name || "(new)"}` : "");
  const ready = usable(full);
  const tried = useTried(ready.locators.length ? ready : null, kind, five ? [] : page ? [page] : []);
  const first = tried.data?.find((t) => t.address === page) ?? tried.data?.[0];
  const nodes = JSON.stringify(first?.address === page ? (first?.nodes ?? []) : []);
  useEffect(() => onTried(JSON.parse(nodes) as number[]), [nodes, onTried]);
  const [taught, setTaught] = useState(0);
  useEffect(() => {
    if (picked && picked.at !== taught) {
      setTaught(picked.at);
      setDraft((d) => ({
        ...d,
        locators: [
          { css: picked.css, attribute: null, meta: null, label: null, address: null },
          ...d.locators.slice(1),
        ],
      }));
    }
  }, [picked, taught]);
  const setLocator = (n: number, locator: Locator) =>
    setDraft({ ...draft, locators: draft.locators.map((l, m) => (m === n ? locator : l)) });
  const submit = () =>
    save.mutate(
      {
        text: fresh ? `field ${draft.name} of ${kind} made` : `field ${draft.name} of ${kind} changed`,
        change: (plan) => {
          const k = plan.kinds?.find((x) => x.name === kind);
          if (!k) throw new Problem(`The kind ${kind} is not in the plan any more.`, 0);
          const fields = (k.fields ??= []);
          const made = { ...full, locators: full.locators.filter((l) => WAYS.some(([w]) => l[w])) };
          if (fresh) fields.push(made);
          else fields[index] = made;
        },
      },
      { onSuccess: () => onDone(draft.name) },
    );
  return (
    <form
      ref={form}
      className="card on"
      style={{ cursor: "default" }}
      aria-label={`Field ${draft.name}`}
      onSubmit={(e) => {
        e.preventDefault();
        submit();
      }}
    >
      <div style={{ display: "flex", flexDirection: "column", gap: 8 }}>
        <div className="two" style={{ display: "flex", gap: 8 }}>
          <TextField
            label="Field"
            value={draft.name}
            autoFocus={fresh}
            onChange={(e) => setDraft({ ...draft, name: e.target.value.toLowerCase().replace(/[^a-z0-9_]/g, "_") })}
          />
          <TextField
            label="Type"
            select
            value={draft.type}
            onChange={(e) => setDraft({ ...draft, type: e.target.value as Field["type"] })}
          >
            {TYPES.map(([value, label]) => (
              <MenuItem key={value} value={value}>
                {label}
              </MenuItem>
            ))}
          </TextField>
        </div>
        {draft.type === "choice" && (
          <TextField
            label="Choices, one after the other with commas"
            value={draft.choices?.join(", ") ?? ""}
            onChange={(e) => setDraft({ ...draft, choices: e.target.value.split(",").map((c) => c.trim()) })}
          />
        )}
        {draft.locators.map((locator, n) => {
          const way = WAYS.find(([name]) => locator[name] != null)?.[0] ?? "css";
          return (
            <div key={n} style={{ display: "flex", gap: 6, alignItems: "center" }}>
              <TextField
                select
                label={n ? "or" : "read by"}
                value={way}
                sx={{ maxWidth: 138 }}
                onChange={(e) =>
                  setLocator(n, {
                    css: null,
                    meta: null,
                    label: null,
                    address: null,
                    attribute: null,
                    [e.target.value]: locator[way] ?? "",
                  })
                }
              >
                {WAYS.map(([value, label]) => (
                  <MenuItem key={value} value={value}>
                    {label}
                  </MenuItem>
                ))}
              </TextField>
              <TextField
                label="what"
                className="mono"
                value={locator[way] ?? ""}
                onChange={(e) => setLocator(n, { ...locator, [way]: e.target.value })}
                slotProps={{ htmlInput: { className: "mono", spellCheck: false } }}
              />
              {draft.locators.length > 1 && (
                <button
                  type="button"
                  className="linkish"
                  aria-label="take this one out"
                  onClick={() => setDraft({ ...draft, locators: draft.locators.filter((_, m) => m !== n) })}
                >
                  ×
                </button>
              )}
            </div>
          );
        })}
        <div className="acts">
          <button
            type="button"
            className="linkish"
            onClick={() =>
              setDraft({
                ...draft,
                locators: [...draft.locators, { css: "", attribute: null, meta: null, label: null, address: null }],
              })
            }
          >
            + if that finds nothing
          </button>
          <label className="check" style={{ marginLeft: "auto" }}>
            <input
              type="checkbox"
              checked={draft.required ?? false}
              onChange={(e) => setDraft({ ...draft, required: e.target.checked })}
            />{" "}
            required
          </label>
        </div>
        {!["blocks", "picture"].includes(draft.type) && (
          <TextField
            label="Treatments, one a line"
            placeholder={"trim\nfirst number\ndate: %d %B %Y"}
            multiline
            minRows={1}
            value={treat}
            onChange={(e) => setTreat(e.target.value)}
            slotProps={{ htmlInput: { className: "mono", spellCheck: false } }}
          />
        )}
        <Told error={tried.error} />
        <div role="status" data-testid="tried">
          {(five ? (tried.data ?? []) : first ? [first] : []).map((t) => (
            <div key={t.address} className="value">
              {five && <div className="mono soft">{t.key}</div>}
              {t.value !== null && t.value !== undefined ? (
                <b>{shown(t.value)}</b>
              ) : (
                <span className="state empty">nothing found</span>
              )}{" "}
              {t.state !== "filled" && (
                <span className={`state ${t.state}`}>
                  {t.state === "empty" ? "" : t.state} {t.note}
                </span>
              )}
            </div>
          ))}
        </div>
        <Told error={save.error} />
        <div className="acts">
          <Button type="submit" variant="contained" disabled={!dirty || !draft.name || save.isPending}>
            {fresh ? "Make this field" : "Save"}
          </Button>
          <Button type="button" variant="outlined" onClick={() => setFive(!five)} aria-pressed={five}>
            {five ? "This page only" : "Try on five"}
          </Button>
          {!fresh && (
            <Button
              type="button"
              onClick={() =>
                save.mutate(
                  {
                    text: `field ${field.name} of ${kind} removed`,
                    change: (plan) => plan.kinds?.find((k) => k.name === kind)?.fields?.splice(index, 1),
                  },
                  { onSuccess: () => onDone(null) },
                )
              }
            >
              Remove
            </Button>
          )}
          <Button type="button" onClick={() => onDone(null)}>
            {dirty ? "Leave it" : "Close"}
          </Button>
        </div>
      </div>
    </form>
  );
}
