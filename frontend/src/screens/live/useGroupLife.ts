import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { answered, api, type GroupLife } from "../../shared/api/client";

/** A group that lives, or single instances, with all their instances; nothing before it is known. */
export function useGroupLife(plan: number, group: string): GroupLife | undefined {
  return useQuery({
    queryKey: ["live part", plan, "group", group],
    placeholderData: keepPreviousData,
    queryFn: () =>
      answered(api.GET("/api/plans/{plan_id}/live/groups/{group}", { params: { path: { plan_id: plan, group } } })),
  }).data;
}
