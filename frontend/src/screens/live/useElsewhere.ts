import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { answered, api, type ElsewhereGroup } from "../../shared/api/client";
import { useStream } from "../../shared/api/useStream";

// ms: the page asks anew so often at the most
const EVERY = 900;

/** The groups that are kept at a provider in another process, kept up to date by their stream. */
export function useElsewhere(plan: number) {
  const queries = useQueryClient();
  const key = ["elsewhere", plan];
  const path = { plan_id: plan };
  const kept = useQuery({
    queryKey: key,
    queryFn: () => answered(api.GET("/api/plans/{plan_id}/live/elsewhere", { params: { path } })),
  });
  useStream(kept.data?.length ? `/api/plans/${plan}/live/elsewhere/events` : null, {
    kind: "changed",
    every: EVERY,
    ask: () => void queries.invalidateQueries({ queryKey: key }),
    lost: () => undefined,
    found: () => undefined,
  });
  const onSuccess = (next: ElsewhereGroup[]) => queries.setQueryData(key, next);
  const begin = useMutation({
    mutationFn: (body: { group: string; url: string }) =>
      answered(api.POST("/api/plans/{plan_id}/live/elsewhere", { params: { path }, body })),
    onSuccess,
  });
  const steer = useMutation({
    mutationFn: ({ group, ...body }: { group: string; held?: boolean; dry?: boolean }) =>
      answered(api.PUT("/api/plans/{plan_id}/live/elsewhere/{group}", { params: { path: { ...path, group } }, body })),
    onSuccess,
  });
  const again = useMutation({
    mutationFn: (group: string) =>
      answered(api.POST("/api/plans/{plan_id}/live/elsewhere/{group}/again", { params: { path: { ...path, group } } })),
    onSuccess,
  });
  const letGo = useMutation({
    mutationFn: (group: string) =>
      answered(api.DELETE("/api/plans/{plan_id}/live/elsewhere/{group}", { params: { path: { ...path, group } } })),
    onSuccess,
  });
  return { kept: kept.data ?? [], begin, steer, again, letGo };
}
