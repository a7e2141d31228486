export const ORDERS = ["state", "age", "version", "zone", "load", "purchase"] as const;
export type LaneOrder = (typeof ORDERS)[number];
