import { useQuery } from "@tanstack/react-query";
import { answered, api } from "../../shared/api/client";
import { SpreadLine } from "../../shared/chart/SpreadLine";
import its from "./library.module.css";

/** What the spot market asks for a machine over the plan's span, zone by zone, below its on-demand price. */
export function MarketChart({ plan, machine }: { plan: number; machine: string }) {
  const market = useQuery({
    queryKey: ["market", plan, machine],
    queryFn: () =>
      answered(
        api.GET("/api/plans/{plan_id}/machines/{machine}/market", { params: { path: { plan_id: plan, machine } } }),
      ),
  });
  if (market.error) return <p className="wrong">{market.error.message}</p>;
  if (!market.data) return <p className="quiet">Looking at the market</p>;
  const { zones, top, on_demand, on_demand_text } = market.data;
  return (
    <section className={its.market} aria-label={`The spot market of ${machine}`}>
      {zones.map((one) => (
        <figure key={one.zone}>
          <figcaption>
            <b>{one.zone}</b> {one.said}
          </figcaption>
          <SpreadLine
            low={one.low}
            high={one.high}
            mean={one.mean}
            top={top}
            height={40}
            ink="ochre"
            label={`${one.zone}: ${one.said}`}
            level={on_demand}
          />
        </figure>
      ))}
      <p className="quiet">
        The dashed line is {on_demand_text} an hour. The same seed brings the same market to every arrangement.
      </p>
    </section>
  );
}
