import { type Inks, thin } from "../../../shared/chart/ink";

export const ORDERS = ["state", "age", "version", "zone", "load", "purchase", "machine"] as const;
/** The ink of a guest among those of its host, from strong to faint. */
export function guestInk(inks: Inks, number: number, of: number): string {
  return thin(inks.indigo, of === 1 ? 0.5 : 0.75 - (0.6 * number) / (of - 1));
}

export type LaneOrder = (typeof ORDERS)[number];
