/** What the fate bar narrowed this view to, and the way back. */
import { useLink } from "../shell/state";
import { FateMark } from "./Fate";

export const useFates = () => useLink().all("fate");

export function FateChip() {
  const link = useLink();
  const fates = link.all("fate");
  if (!fates.length) return null;
  return (
    <button className="chip on" onClick={() => link.set({ fate: null })} title="Show all fates again">
      only{" "}
      {fates.map((fate) => (
        <FateMark key={fate} fate={fate} word />
      ))}{" "}
      ×
    </button>
  );
}
