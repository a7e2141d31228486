import { useHotkeys } from "@mantine/hooks";
import { useState } from "react";
import type { TakeLine } from "../../shared/api/client";

/** Undo goes to the take that this one came from, redo the way back. */
export function useUndo(take: TakeLine | undefined, goTo: (take: number) => void) {
  const [undone, setUndone] = useState<number[]>([]);
  const undo = () => {
    if (!take || take.came_from === null) return;
    setUndone([...undone, take.number]);
    goTo(take.came_from);
  };
  const redo = () => {
    const next = undone.at(-1);
    if (next === undefined) return;
    setUndone(undone.slice(0, -1));
    goTo(next);
  };
  useHotkeys([
    ["mod + Z", undo],
    ["mod + shift + Z", redo],
    ["mod + Y", redo],
  ]);
}
