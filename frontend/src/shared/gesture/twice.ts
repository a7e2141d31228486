import type { Change } from "../api/client";

/** Whether these take out what is being taken out already, as a second press of the same button does. Of bands each press takes
 * another. */
export function takenOutTwice(changes: Change[], underWay: Change[]): boolean {
  return (
    changes.length > 0 &&
    changes.every((one) => one.op === "remove" && !one.path.endsWith(".bands")) &&
    JSON.stringify(changes) === JSON.stringify(underWay)
  );
}
