import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { answered, api } from "../../shared/api/client";
import { sent } from "../../shared/api/form";
import { FileChoice } from "../../shared/files/FileChoice";
import its from "./library.module.css";

/** Where spot prices come from: drawn by chance, or those of a file. */
export function PricesLine({ plan }: { plan: number }) {
  const queries = useQueryClient();
  const params = { path: { plan_id: plan } };
  const market = useQuery({
    queryKey: ["spot-market", plan],
    queryFn: () => answered(api.GET("/api/plans/{plan_id}/machines/market", { params })),
  });
  const bring = useMutation({
    mutationFn: (file: File) => {
      const body = new FormData();
      body.append("file", file);
      return answered(api.POST("/api/plans/{plan_id}/machines/market", { params, ...sent(body) }));
    },
    onSuccess: () => queries.invalidateQueries(),
  });
  const drop = useMutation({
    mutationFn: () => answered(api.DELETE("/api/plans/{plan_id}/machines/market", { params })),
    onSuccess: () => queries.invalidateQueries(),
  });
  const wrong = bring.error ?? drop.error ?? market.error;
  return (
    <>
      <p className={its.need}>
        {market.data?.said}{" "}
        <FileChoice text="bring prices" accept=".csv,text/csv" choose={(file) => bring.mutate(file)} />{" "}
        {market.data?.brought && (
          <button type="button" className="plain-button" onClick={() => drop.mutate()}>
            draw them by chance
          </button>
        )}
      </p>
      {wrong && (
        <p className="notice" role="alert">
          {wrong.message}
        </p>
      )}
    </>
  );
}
