import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/react-query";
import { answered, api } from "../../shared/api/client";
import { useStream } from "../../shared/api/useStream";

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
  const ask = () => void queries.invalidateQueries({ queryKey: ["search", plan, group, number] });
  useStream(running ? `/api/plans/${plan}/groups/${group}/searches/${number}/events` : null, {
    kind: "looked",
    every: EVERY,
    ask,
    // The stream ends with the search: what it found last is asked for once more.
    lost: (stream) => {
      stream.close();
      window.setTimeout(ask, EVERY);
    },
  });
  return view;
}
