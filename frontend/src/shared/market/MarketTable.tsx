import type { Berth } from "../api/client";
import its from "./market.module.css";

/** What the spot market has, in the order in which a launch would take it, and why it would not. */
export function MarketTable({ said, market }: { said: string; market: Berth[] }) {
  return (
    <table className={its.berths} aria-label="The spot market now">
      <caption>{said}</caption>
      <tbody>
        {market.map((one) => (
          <tr key={`${one.machine} ${one.zone}`} data-standing={one.standing}>
            <th scope="row">{one.standing}</th>
            <td>
              {one.machine} in {one.zone}
              <small>
                {[one.why, one.price && `${one.share} of on demand, ${one.risk} reclaimed an hour`]
                  .filter(Boolean)
                  .join("; ")}
              </small>
            </td>
            <td className={its.figure}>{one.price}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
