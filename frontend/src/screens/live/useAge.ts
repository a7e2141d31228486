import { useEffect, useState } from "react";

// s: what is older is said to be
const YOUNG = 5;

/** How many seconds ago something was told, where that is longer ago than a moment and it may have changed since; `told` is
 * otherwise each time. */
export function useAge(told: number, changes: boolean): number | null {
  const [age, setAge] = useState(0);
  // biome-ignore lint/correctness/useExhaustiveDependencies: it is counted from when it was told
  useEffect(() => {
    setAge(0);
    if (!changes) return;
    const begun = performance.now();
    const turn = window.setInterval(() => setAge(Math.floor((performance.now() - begun) / 1000)), 1000);
    return () => window.clearInterval(turn);
  }, [told, changes]);
  return changes && age > YOUNG ? age : null;
}
