import { useQuery } from "@tanstack/react-query";
import { answered, api, type PlanView } from "./client";

/** The plan at work: the newest one. `none` once it is known that there is no plan yet. */
export function usePlan(): { plan: PlanView | undefined; none: boolean; error: Error | null } {
  const query = useQuery({
    queryKey: ["plan"],
    queryFn: async () => {
      const plans = await answered(api.GET("/api/plans"));
      const newest = plans[0];
      if (!newest) return null;
      return answered(api.GET("/api/plans/{plan_id}", { params: { path: { plan_id: newest.id } } }));
    },
  });
  return { plan: query.data ?? undefined, none: query.data === null, error: query.error };
}
