import { useCallback, useRef } from "react";
import type { Change } from "../api/client";

/** Keeps changes by `keep`, which says why they were refused, or nothing. A second press of a button that takes something out does
 * nothing while the first is under way. */
export function useCommit<More extends unknown[]>(
  keep: (changes: Change[], ...more: More) => Promise<string | null>,
): (changes: Change[], ...more: More) => Promise<string | null> {
  const underWay = useRef<Change[]>([]);
  return useCallback(
    async (changes, ...more) => {
      if (takenOutTwice(changes, underWay.current)) return null;
      underWay.current = changes;
      const refused = await keep(changes, ...more);
      if (underWay.current === changes) underWay.current = [];
      return refused;
    },
    [keep],
  );
}

/** Whether these take out what is being taken out already. Of bands each press takes another. */
function takenOutTwice(changes: Change[], underWay: Change[]): boolean {
  return (
    changes.length > 0 &&
    changes.every((one) => one.op === "remove" && !one.path.endsWith(".bands")) &&
    JSON.stringify(changes) === JSON.stringify(underWay)
  );
}
