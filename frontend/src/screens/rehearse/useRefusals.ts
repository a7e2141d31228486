import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import { answered, api } from "../../shared/api/client";

/** Why what a take's page offers would be refused, by the section or sentence and what the offer says. */
export function useRefusals(
  plan: number | undefined,
  group: string,
  take: number | undefined,
): Record<string, Record<string, string>> {
  const query = useQuery({
    queryKey: ["refusals", plan, group, take],
    enabled: plan !== undefined && take !== undefined,
    placeholderData: (before) => before,
    queryFn: () =>
      answered(
        api.POST("/api/plans/{plan_id}/groups/{group}/refusals", {
          params: { path: { plan_id: plan ?? 0, group } },
          body: { take: take ?? null },
        }),
      ),
  });
  return useMemo(() => {
    const found: Record<string, Record<string, string>> = {};
    for (const one of query.data ?? []) found[one.key] = { ...found[one.key], [one.text]: one.why };
    return found;
  }, [query.data]);
}
