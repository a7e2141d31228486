import { useCallback, useMemo, useState } from "react";
import { type Act, useOffered } from "../../shared/acts/acts";
import type { TakeLine } from "../../shared/api/client";

/** Undo goes to the take that this one came from, redo the way back; both hold after leaving the page. */
export function useUndo(key: string, take: TakeLine | undefined, goTo: (take: number) => void) {
  const [undone, keep] = useState<number[]>(() => JSON.parse(sessionStorage.getItem(key) ?? "[]") as number[]);
  const setUndone = useCallback(
    (next: number[]) => {
      keep(next);
      sessionStorage.setItem(key, JSON.stringify(next));
    },
    [key],
  );
  useOffered(
    useMemo((): Act[] => {
      const next = undone.at(-1);
      const from = take?.came_from ?? null;
      const acts: Act[] = [];
      if (take && from !== null)
        acts.push({
          group: "Do here",
          label: "Undo",
          about: take.change,
          also: "back revert",
          keys: ["mod + Z"],
          run: () => {
            setUndone([...undone, take.number]);
            goTo(from);
          },
        });
      if (next !== undefined)
        acts.push({
          group: "Do here",
          label: "Redo",
          about: `To take ${next}`,
          keys: ["mod + shift + Z", "mod + Y"],
          run: () => {
            setUndone(undone.slice(0, -1));
            goTo(next);
          },
        });
      return acts;
    }, [take, undone, setUndone, goTo]),
  );
}
