/** What is being typed, once the typing has paused: so that not every letter is asked about. */
import { useEffect, useState } from "react";

export function useSettled(value: string, pause = 350): string {
  const [settled, setSettled] = useState(value);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(value), pause);
    return () => clearTimeout(timer);
  }, [value, pause]);
  return settled;
}
