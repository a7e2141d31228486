import { useEffect, useSyncExternalStore } from "react";

/** Something that can be done or gone to on the screen as it stands. Buttons, keys and the finder share it. */
export interface Act {
  /** Under which heading the finder shows it. */
  group: string;
  label: string;
  about?: string;
  /** Words of the trade by which it is found besides. */
  also?: string;
  /** Keys that do it, as `mod + Z`; the first is told. */
  keys?: readonly string[];
  run: () => void;
}

let offered: readonly { owner: symbol; acts: readonly Act[] }[] = [];
const listeners = new Set<() => void>();

function tell() {
  for (const listener of listeners) listener();
}

/** Offers acts while what offers them is shown. */
export function useOffered(acts: readonly Act[]) {
  useEffect(() => {
    const owner = Symbol("acts");
    offered = [...offered, { owner, acts }];
    tell();
    return () => {
      offered = offered.filter((one) => one.owner !== owner);
      tell();
    };
  }, [acts]);
}

/** All that is offered now. */
export function useActs(): Act[] {
  const known = useSyncExternalStore(
    (listener) => {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
    () => offered,
  );
  return known.flatMap((one) => one.acts);
}
