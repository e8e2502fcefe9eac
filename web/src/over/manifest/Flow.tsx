/** The flow from the old site's folders to fates; small folders are folded into “everything else”. */
import {
  sankey,
  sankeyJustify,
  sankeyLinkHorizontal,
  type SankeyGraph,
  type SankeyLink,
  type SankeyNode,
} from "d3-sankey";
import { useEffect, useMemo, useRef, useState } from "react";
import type { Schemas } from "../../api/client";
import { count } from "../../shell/state";
import { FATES, fateColour, FateMark } from "../../shores/Fate";

interface N {
  name: string;
  side: "old" | "new";
}
interface L {
  fate: string;
}
const MOST = 9;

export function Flow({
  folders,
  onFolder,
  onFate,
}: {
  folders: Schemas["FolderCount"][];
  onFolder: (folder: string) => void;
  onFate: (fate: string) => void;
}) {
  const box = useRef<HTMLDivElement>(null);
  const [[width, height], setSize] = useState([900, 300]);
  useEffect(() => {
    const el = box.current;
    if (!el) return;
    const watch = new ResizeObserver(() => setSize([el.clientWidth, Math.max(160, el.clientHeight)]));
    watch.observe(el);
    return () => watch.disconnect();
  }, []);
  const graph = useMemo(() => {
    const sums = new Map<string, number>();
    for (const f of folders) sums.set(f.folder, (sums.get(f.folder) ?? 0) + f.count);
    const ranked = [...sums].sort((a, b) => b[1] - a[1]);
    const kept = new Set(ranked.slice(0, ranked.length > MOST + 1 ? MOST : MOST + 1).map(([name]) => name));
    const flows = new Map<string, number>();
    for (const f of folders) {
      const from = kept.has(f.folder) ? f.folder : "everything else";
      const key = `${from}\n${f.fate}`;
      flows.set(key, (flows.get(key) ?? 0) + f.count);
    }
    const olds = [
      ...ranked.map(([name]) => name).filter((name) => kept.has(name)),
      ...(ranked.length > kept.size ? ["everything else"] : []),
    ];
    const news = FATES.filter((fate) => folders.some((f) => f.fate === fate));
    const nodes: N[] = [
      ...olds.map((name) => ({ name, side: "old" as const })),
      ...news.map((name) => ({ name, side: "new" as const })),
    ];
    const links = [...flows].map(([key, value]) => {
      const [from = "", fate = ""] = key.split("\n");
      return {
        source: olds.indexOf(from),
        target: olds.length + news.indexOf(fate as (typeof FATES)[number]),
        value,
        fate,
      };
    });
    if (!links.length) return null;
    const side = Math.min(240, width * 0.22);
    return sankey<N, L>()
      .nodeWidth(9)
      .nodePadding(Math.min(16, (height - 20) / (nodes.length + 2) / 2 + 4))
      .nodeAlign(sankeyJustify)
      .nodeSort(null as unknown as undefined)
      .extent([
        [side, 6],
        [width - side, height - 8],
      ])({ nodes: nodes.map((n) => ({ ...n })), links: links.map((l) => ({ ...l })) } as SankeyGraph<N, L>);
  }, [folders, width, height]);
  const path = sankeyLinkHorizontal<N, L>();
  // labels of thin parts are moved apart, so that none covers another
  const labels = useMemo(() => {
    const made = new Map<SankeyNode<N, L>, number>();
    for (const side of ["old", "new"] as const) {
      let last = -20;
      for (const node of (graph?.nodes ?? [])
        .filter((n) => n.side === side)
        .sort((a, b) => (a.y0 ?? 0) - (b.y0 ?? 0))) {
        const y = Math.max(last + 17, ((node.y0 ?? 0) + (node.y1 ?? 0)) / 2 + 4);
        made.set(node, y);
        last = y;
      }
      const over = last - (height - 4);
      if (over > 0)
        for (const node of graph?.nodes ?? []) if (node.side === side) made.set(node, (made.get(node) ?? 0) - over);
    }
    return made;
  }, [graph, height]);
  return (
    <div ref={box} style={{ flex: 1, minHeight: 0, position: "relative" }}>
      {graph && (
        <svg className="flow" width={width} height={height} role="group" aria-label="From old folders to fates">
          {graph.links.map((link: SankeyLink<N, L> & L, n) => (
            <path
              key={n}
              d={path(link) ?? ""}
              fill="none"
              stroke={fateColour(link.fate)}
              strokeOpacity={0.32}
              strokeWidth={Math.max(1, link.width ?? 0)}
            >
              <title>{`${(link.source as SankeyNode<N, L>).name} → ${link.fate}: ${count(link.value)}`}</title>
            </path>
          ))}
          {graph.nodes.map((node) => {
            const old = node.side === "old";
            const y = labels.get(node) ?? 0;
            const click = () => (old ? node.name !== "everything else" && onFolder(node.name) : onFate(node.name));
            return (
              <g
                key={node.side + node.name}
                onClick={click}
                style={{ cursor: old && node.name === "everything else" ? "default" : "pointer" }}
              >
                <rect
                  x={node.x0}
                  y={node.y0}
                  width={9}
                  height={Math.max(1.5, (node.y1 ?? 0) - (node.y0 ?? 0))}
                  fill={old ? "var(--sand-edge)" : fateColour(node.name)}
                />
                {old ? (
                  <text
                    x={(node.x0 ?? 0) - 8}
                    y={y}
                    textAnchor="end"
                    className={node.name === "everything else" ? "" : "mono"}
                  >
                    {node.name.length > 24 ? `${node.name.slice(0, 23)}…` : node.name}{" "}
                    <tspan className="d">{count(node.value)}</tspan>
                  </text>
                ) : (
                  <>
                    <g transform={`translate(${(node.x1 ?? 0) + 7} ${y - 12})`}>
                      <foreignObject width="18" height="18">
                        <FateMark fate={node.name} />
                      </foreignObject>
                    </g>
                    <text x={(node.x1 ?? 0) + 26} y={y}>
                      {node.name} <tspan className="d">{count(node.value)}</tspan>
                    </text>
                  </>
                )}
              </g>
            );
          })}
        </svg>
      )}
    </div>
  );
}
