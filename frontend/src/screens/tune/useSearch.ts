import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { answered, api } from "../../shared/api/client";

// ms: so often at the most is a search asked how far it is
const EVERY = 600;

/** A search as it stands, kept up to date by its stream while it runs. */
export function useSearch(plan: number, group: string, number: number | null, set: number | null) {
  const queries = useQueryClient();
  const view = useQuery({
    queryKey: ["search", plan, group, number, set],
    enabled: number !== null,
    placeholderData: keepPreviousData,
    queryFn: () =>
      answered(
        api.GET("/api/plans/{plan_id}/groups/{group}/searches/{number}", {
          params: { path: { plan_id: plan, group, number: number ?? 1 }, query: { set } },
        }),
      ),
  });
  const running = view.data?.running === true && view.data.number === number;
  useEffect(() => {
    if (!running) return;
    const stream = new EventSource(`/api/plans/${plan}/groups/${group}/searches/${number}/events`);
    let late: number | undefined;
    let last = 0;
    const ask = () => {
      last = Date.now();
      late = undefined;
      void queries.invalidateQueries({ queryKey: ["search", plan, group, number] });
    };
    stream.addEventListener("looked", () => {
      if (late === undefined) late = window.setTimeout(ask, Math.max(0, EVERY - (Date.now() - last)));
    });
    // The stream ends with the search: what it found last is asked for once more.
    stream.onerror = () => {
      stream.close();
      window.setTimeout(ask, EVERY);
    };
    return () => {
      window.clearTimeout(late);
      stream.close();
    };
  }, [plan, group, number, running, queries]);
  return view;
}
