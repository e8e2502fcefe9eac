/** The rail's drawings: our own, plain strokes. */
const PATHS: Record<string, string> = {
  manifest: "M5 3h10v14H5zM8 7h4M8 10h4M8 13h2",
  survey: "M2 11q3-6 6 0t6 0 4-2",
  sort: "M3 5h14M3 10h9M3 15h5",
  lift: "M10 17V4M5 9l5-5 5 5",
  refit: "M3 7l4 4 3-3 7-3M3 16h14M14 5h3v3",
  route: "M4 16c6 0 4-12 12-12M13 2l3 2-2 3",
  media: "M3 4h14v12H3zM3 13l4-4 3 3 3-4 4 4M7 7h.5",
  land: "M3 15h14M5 15l5-8 5 8",
};
export const Icon = ({ name }: { name: string }) => (
  <svg viewBox="0 0 20 20" aria-hidden="true">
    <path d={PATHS[name] ?? ""} />
  </svg>
);
