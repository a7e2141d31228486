export const ORDERS = ["state", "age", "version", "zone", "load"] as const;
export type LaneOrder = (typeof ORDERS)[number];
