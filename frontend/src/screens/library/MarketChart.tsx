import { useQuery } from "@tanstack/react-query";
import { answered, api, type ZoneMarket } from "../../shared/api/client";
import its from "./library.module.css";

const HEIGHT = 40;

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
          <Course zone={one} top={top} on_demand={on_demand} />
        </figure>
      ))}
      <p className="quiet">
        The dashed line is {on_demand_text} an hour. The same seed brings the same market to every arrangement.
      </p>
    </section>
  );
}

function Course({ zone, top, on_demand }: { zone: ZoneMarket; top: number; on_demand: number }) {
  const last = Math.max(1, zone.mean.length - 1);
  const at = (value: number | null | undefined) => (HEIGHT - ((value ?? 0) / top) * (HEIGHT - 3)).toFixed(1);
  const spread = zone.high.map((high, k) => `M${k},${at(zone.low[k])}V${at(high)}`).join("");
  const line = zone.mean.map((value, k) => `${k === 0 ? "M" : "L"}${k},${at(value)}`).join("");
  return (
    <svg
      viewBox={`0 0 ${last} ${HEIGHT}`}
      preserveAspectRatio="none"
      role="img"
      aria-label={`${zone.zone}: ${zone.said}`}
    >
      <path d={spread} stroke="var(--ochre)" opacity="0.4" vectorEffect="non-scaling-stroke" />
      <path d={line} fill="none" stroke="var(--ochre)" strokeWidth="1.4" vectorEffect="non-scaling-stroke" />
      <path
        d={`M0,${at(on_demand)}H${last}`}
        stroke="var(--quiet)"
        strokeDasharray="4 4"
        vectorEffect="non-scaling-stroke"
      />
    </svg>
  );
}
