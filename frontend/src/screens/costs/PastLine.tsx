import { useMutation, useQueryClient } from "@tanstack/react-query";
import { answered, api } from "../../shared/api/client";
import { sent } from "../../shared/api/form";
import { FileChoice } from "../../shared/files/FileChoice";

/** What was paid for before the groups lived here, brought as a file. */
export function PastLine({ plan, brought }: { plan: number; brought: number }) {
  const queries = useQueryClient();
  const params = { path: { plan_id: plan } };
  const refresh = () => queries.invalidateQueries({ queryKey: ["costs", plan] });
  const bring = useMutation({
    mutationFn: (file: File) => {
      const body = new FormData();
      body.append("file", file);
      return answered(api.POST("/api/plans/{plan_id}/costs/past", { params, ...sent(body) }));
    },
    onSuccess: refresh,
  });
  const drop = useMutation({
    mutationFn: () => api.DELETE("/api/plans/{plan_id}/costs/past", { params }),
    onSuccess: refresh,
  });
  const wrong = bring.error ?? drop.error;
  return (
    <p>
      {brought > 0 && (
        <>
          {brought.toLocaleString("en-GB")} hours were brought.{" "}
          <button type="button" className="plain-button" onClick={() => drop.mutate()}>
            take them out
          </button>{" "}
        </>
      )}
      <FileChoice text="bring the past" accept=".csv,text/csv" choose={(file) => bring.mutate(file)} />{" "}
      <small className="quiet">a CSV with hour, group, count and amount in each row</small>
      {wrong && (
        <span className="wrong" role="alert">
          {" "}
          {wrong.message}
        </span>
      )}
    </p>
  );
}
