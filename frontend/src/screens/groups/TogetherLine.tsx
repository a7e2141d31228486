import { useQuery } from "@tanstack/react-query";
import { answered, api, type PlanView } from "../../shared/api/client";
import its from "./groups.module.css";

// A smaller part has no room for its name, which it says when it is pointed at
const LEAST_NAMED = 0.1;

/** All groups as one: what they cost a week and for what, and how near each machine comes to its quota. */
export function TogetherLine({ plan }: { plan: PlanView }) {
  const found = useQuery({
    queryKey: ["together", plan.id, plan.revision],
    placeholderData: (before) => before,
    queryFn: () => answered(api.GET("/api/plans/{plan_id}/together", { params: { path: { plan_id: plan.id } } })),
  });
  const all = found.data;
  if (!all) return <section className={its.together} aria-label="All groups together" aria-busy />;
  return (
    <section className={its.together} aria-label="All groups together">
      <p>
        <b>{all.cost}</b> a week in all; {all.promises_kept} of {all.promises} promises kept.
      </p>
      <div
        className={its.parts}
        role="img"
        aria-label={all.groups.map((part) => `${part.name} ${part.cost}`).join(", ")}
      >
        {all.groups.map((part) => (
          <span key={part.name} style={{ flexGrow: part.share }} title={`${part.name}: ${part.cost}`}>
            {part.share >= LEAST_NAMED && `${part.name} ${part.cost}`}
          </span>
        ))}
      </div>
      <p className="quiet">
        Paid for {all.what.map((part) => `${part.name} ${part.cost}`).join(", ")}. At its most in an hour:{" "}
        {all.machines.map((one, place) => (
          <span key={one.machine} className={(one.share ?? 0) > 0.9 ? "wrong" : undefined}>
            {place > 0 && ", "}
            {one.machine} {one.most}
            {one.quota !== null && ` of ${one.quota}`} ({one.at})
          </span>
        ))}
        .
      </p>
    </section>
  );
}
