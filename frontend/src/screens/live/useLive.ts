import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { answered, api, type LiveView, Refusal } from "../../shared/api/client";
import { useStream } from "../../shared/api/useStream";

// ms: the page asks anew so often at the most, however fast the clock goes
const EVERY = 900;

/** What lives of a plan, kept up to date by the stream; `lost` while the stream is. */
export function useLive(plan: number) {
  const queries = useQueryClient();
  const [lost, setLost] = useState(false);
  const path = { plan_id: plan };
  const view = useQuery({
    queryKey: ["live", plan],
    placeholderData: keepPreviousData,
    queryFn: async (): Promise<LiveView | null> => {
      const { data, error } = await api.GET("/api/plans/{plan_id}/live", { params: { path } });
      if (error !== undefined) throw new Refusal("The server does not answer.", 0);
      return data ?? null;
    },
  });
  useStream(view.data ? `/api/plans/${plan}/live/events` : null, {
    kind: "went-on",
    every: EVERY,
    ask: () => {
      void queries.invalidateQueries({ queryKey: ["live", plan] });
      void queries.invalidateQueries({ queryKey: ["live part", plan] });
    },
    lost: () => setLost(true),
    found: () => setLost(false),
  });
  const put = (next: LiveView) => {
    queries.setQueryData(["live", plan], next);
    void queries.invalidateQueries({ queryKey: ["live part", plan] });
  };
  const clock = useMutation({
    mutationFn: (body: { pace?: number; running?: boolean }) =>
      answered(api.PUT("/api/plans/{plan_id}/live/clock", { params: { path }, body })),
    onSuccess: put,
  });
  const step = useMutation({
    mutationFn: (body: { to?: "next change"; by?: number }) =>
      answered(api.POST("/api/plans/{plan_id}/live/steps", { params: { path }, body })),
    onSuccess: put,
  });
  const begin = useMutation({
    mutationFn: (days: number) =>
      answered(api.POST("/api/plans/{plan_id}/live", { params: { path }, body: { days, left_alone: [] } })),
    onSuccess: put,
  });
  const end = useMutation({
    mutationFn: () => api.DELETE("/api/plans/{plan_id}/live", { params: { path } }),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["live", plan] }),
  });
  return { view, lost, clock, step, begin, end };
}
