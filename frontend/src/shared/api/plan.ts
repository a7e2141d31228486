import { useQuery } from "@tanstack/react-query";
import { answered, api, type PlanLine, type PlanView, Refusal } from "./client";

/** The newest plan is kept, but cannot be read. */
export class Unreadable extends Refusal {
  readonly plan: PlanLine;

  constructor(plan: PlanLine, cause: Refusal) {
    super(cause.message, cause.status);
    this.plan = plan;
  }
}

/** The plan at work: the newest one. `none` once it is known that there is no plan yet. */
export function usePlan(): { plan: PlanView | undefined; none: boolean; error: Error | null } {
  const query = useQuery({
    queryKey: ["plan"],
    queryFn: async () => {
      const plans = await answered(api.GET("/api/plans"));
      const newest = plans[0];
      if (!newest) return null;
      try {
        return await answered(api.GET("/api/plans/{plan_id}", { params: { path: { plan_id: newest.id } } }));
      } catch (cause) {
        const held = cause instanceof Refusal && (cause.status === 422 || cause.status === 503);
        throw held ? new Unreadable(newest, cause) : cause;
      }
    },
  });
  return { plan: query.data ?? undefined, none: query.data === null, error: query.error };
}
