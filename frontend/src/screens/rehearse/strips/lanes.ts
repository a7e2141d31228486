export const ORDERS = ["state", "age", "version", "zone", "load", "purchase", "machine"] as const;
export type LaneOrder = (typeof ORDERS)[number];
