/** Every page against every field. Thousands of pages fold into bins, each showing the worst of its pages. */
import { useEffect, useRef, useState } from "react";
import type { Schemas } from "../api/client";
import { count } from "../shell/state";

const RANK = "fhmoe"; // the last is the worst
const WORD: Record<string, string> = { f: "filled", h: "set by hand", m: "more than one place", o: "odd", e: "empty" };
const LEAST = 7;

function Cell({ state, x, y, w }: { state: string; x: number; y: number; w: number }) {
  if (state === "e")
    return (
      <rect
        x={x + 0.75}
        y={y + 0.75}
        width={Math.max(1, w - 1.5)}
        height={13}
        rx={2}
        fill="none"
        stroke="var(--soft)"
        strokeDasharray="3 2"
        strokeWidth={1.4}
      />
    );
  if (state === "o") return <path d={`M${x + w / 2} ${y}L${x + w} ${y + 14.5}H${x}Z`} fill="var(--cov-odd)" />;
  if (state === "m") return <path d={`M${x} ${y}h${w}v6h${-w}zM${x} ${y + 8.5}h${w}v6h${-w}z`} fill="var(--cov)" />;
  if (state === "h")
    return (
      <path
        d={`M${x} ${y + 7.25}L${x + w / 2} ${y}L${x + w} ${y + 7.25}L${x + w / 2} ${y + 14.5}Z`}
        fill="var(--cov-hand)"
      />
    );
  return <rect x={x} y={y} width={w} height={14.5} rx={2} fill="var(--cov)" />;
}

export function CoverageGrid({
  grid,
  fields,
  at,
  item: chosen,
  onOpen,
}: {
  grid: Schemas["Grid"];
  fields: string[];
  at?: number;
  item?: number; // of several of one page
  onOpen: (address: number, field: string, item: number) => void;
}) {
  const box = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(900);
  useEffect(() => {
    const el = box.current;
    if (!el) return;
    const watch = new ResizeObserver(() => setWidth(el.clientWidth - 24));
    watch.observe(el);
    return () => watch.disconnect();
  }, []);
  const label = 132;
  const pages = grid.items.length;
  const room = Math.max(100, width - label - 70);
  const per = Math.max(1, Math.ceil(pages / Math.floor(room / LEAST)));
  const bins = Math.ceil(pages / per);
  const step = Math.min(40, room / Math.max(1, bins));
  const here = grid.items.findIndex((i) => (chosen ? i.id === chosen : i.address === at));
  return (
    <div className="cov" ref={box}>
      <svg
        width={width}
        height={fields.length * 20 + 6}
        role="group"
        aria-label={`Coverage: ${count(pages)} pages by ${fields.length} fields`}
      >
        {fields.map((field, row) => {
          const letters = grid.fields[field] ?? "";
          const filled = [...letters].filter((s) => "fhm".includes(s)).length;
          return (
            <g key={field} transform={`translate(0 ${row * 20 + 3})`}>
              <text x={label - 8} y={12} textAnchor="end" fontSize={12.5} fill="var(--ink)">
                {field}
              </text>
              {Array.from({ length: bins }, (_, bin) => {
                const from = bin * per;
                let worst = from;
                for (let n = from; n < Math.min(pages, from + per); n++)
                  if (RANK.indexOf(letters[n] ?? "e") > RANK.indexOf(letters[worst] ?? "e")) worst = n;
                const item = grid.items[worst];
                const state = letters[worst] ?? "e";
                return (
                  <g
                    key={bin}
                    onClick={() => item && onOpen(item.address, field, item.id)}
                    style={{ cursor: "pointer" }}
                  >
                    <title>{`${item?.title || item?.key}: ${field} ${WORD[state]}${per > 1 ? ` (the worst of ${Math.min(per, pages - from)} pages)` : ""}`}</title>
                    <rect x={label + bin * step} y={0} width={step} height={16} fill="transparent" />
                    <Cell state={state} x={label + bin * step} y={0} w={Math.max(2, step - (step > 12 ? 4 : 1.5))} />
                  </g>
                );
              })}
              <text
                x={width - 4}
                y={12}
                textAnchor="end"
                fontSize={12.5}
                fontWeight={600}
                fill={filled === pages ? "var(--teal)" : "var(--ink)"}
              >
                {count(filled)}/{count(pages)}
              </text>
            </g>
          );
        })}
        {here >= 0 && (
          <rect
            x={label + Math.floor(here / per) * step - 2}
            y={0}
            width={step}
            height={fields.length * 20 + 3}
            fill="none"
            stroke="var(--ink)"
            strokeWidth={1.6}
            rx={3}
          />
        )}
      </svg>
    </div>
  );
}

export function CoverageKey({ pages }: { pages: number }) {
  return (
    <>
      {(["f", "e", "o", "m", "h"] as const).map((state) => (
        <span key={state} className="covkey">
          <svg width="14" height="15" aria-hidden="true">
            <Cell state={state} x={0} y={0} w={14} />
          </svg>
          {WORD[state]}
        </span>
      ))}
      <span className="covkey">each column is {pages > 150 ? "an item or a few" : "an item"}</span>
    </>
  );
}
