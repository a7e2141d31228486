import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answered, api, type PlanView } from "../../shared/api/client";
import { MarketTable } from "../../shared/market/MarketTable";
import its from "./library.module.css";

const STEP = 1 / 12;

/** What a group's next launch would take of the market, at an instant that is moved along the span. */
export function TakenPart({ plan, group }: { plan: PlanView; group: string }) {
  const [hours, setHours] = useState(12);
  const taken = useQuery({
    queryKey: ["taken", plan.id, plan.revision, group, hours],
    queryFn: () =>
      answered(
        api.GET("/api/plans/{plan_id}/machines/market/taken", {
          params: { path: { plan_id: plan.id }, query: { group, hours } },
        }),
      ),
    placeholderData: keepPreviousData,
  });
  if (!taken.data?.said) return null;
  return (
    <section className={its.taken} aria-label={`What ${group} would take`}>
      <label>
        <span>
          What {group} would take on <b>{taken.data.at}</b>
        </span>
        <input
          type="range"
          min={0}
          max={24 * plan.days}
          step={STEP}
          value={hours}
          aria-valuetext={taken.data.at}
          onChange={(event) => setHours(Number(event.target.value))}
        />
      </label>
      <MarketTable said={taken.data.said} market={taken.data.market} />
    </section>
  );
}
