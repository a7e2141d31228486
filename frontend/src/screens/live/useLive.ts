import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { answered, api, type LiveView, Refusal } from "../../shared/api/client";
import { useStream } from "../../shared/api/useStream";
import { useAge } from "./useAge";

// ms: the page asks anew so often at the most, however fast the clock goes
const EVERY = 900;
// h of the journal
export const HOURS = 12;

/** What is looked at beside the groups. */
export interface Looked {
  group: string | null;
  instance: number | null;
  of: string | null;
  changes: boolean;
  before: number | null;
}

/** What lives of a plan, all of one instant, kept up to date by the stream; `lost` while the stream is, `asOf` where what is shown
 * may have been overtaken. */
export function useLive(plan: number, looked: Looked) {
  const queries = useQueryClient();
  const [lost, setLost] = useState(false);
  const path = { plan_id: plan };
  const query = { ...looked, hours: HOURS };
  const key = ["live", plan, looked];
  const view = useQuery({
    queryKey: key,
    placeholderData: keepPreviousData,
    queryFn: async (): Promise<LiveView | null> => {
      const { data, error } = await api.GET("/api/plans/{plan_id}/live", { params: { path, query } });
      if (error !== undefined) throw new Refusal("The server does not answer.", 0);
      return data ?? null;
    },
  });
  const age = useAge(view.dataUpdatedAt, Boolean(view.data) && (lost || Boolean(view.data?.running)));
  const asOf = view.data && age !== null ? `as of ${view.data.clock}, ${age} s ago` : null;
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
  // What was asked for before the clock is moved would be older than what comes of it.
  const onMutate = () => queries.cancelQueries({ queryKey: ["live", plan] });
  const put = (next: LiveView) => {
    queries.setQueryData(key, next);
    void queries.invalidateQueries({ queryKey: ["live part", plan] });
  };
  const clock = useMutation({
    onMutate,
    mutationFn: (body: { pace?: number; running?: boolean }) =>
      answered(api.PUT("/api/plans/{plan_id}/live/clock", { params: { path, query }, body })),
    onSuccess: put,
  });
  const step = useMutation({
    onMutate,
    mutationFn: (body: { to?: "next change"; by?: number }) =>
      answered(api.POST("/api/plans/{plan_id}/live/steps", { params: { path, query }, body })),
    onSuccess: put,
  });
  const begin = useMutation({
    mutationFn: (days: number) =>
      answered(api.POST("/api/plans/{plan_id}/live", { params: { path }, body: { days, left_alone: [] } })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["live", plan] }),
  });
  const end = useMutation({
    mutationFn: () => api.DELETE("/api/plans/{plan_id}/live", { params: { path } }),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["live", plan] }),
  });
  return { view, lost, asOf, clock, step, begin, end };
}
