import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { answered, api } from "../../shared/api/client";
import { keptBy } from "../../shared/gesture/handling";
import { Words } from "../../shared/words/Words";
import its from "./groups.module.css";

/** The frame of a plan as a sentence: its name, the span that is rehearsed, the clock and the currency. */
export function FrameLine({ plan_id }: { plan_id: number }) {
  const queries = useQueryClient();
  const path = { plan_id };
  const frame = useQuery({
    queryKey: ["frame", plan_id],
    queryFn: () => answered(api.GET("/api/plans/{plan_id}/frame", { params: { path } })),
  });
  const change = useMutation({
    scope: { id: "frame" },
    mutationFn: (body: { field: Field; value: unknown }) =>
      answered(api.POST("/api/plans/{plan_id}/frame", { params: { path }, body })),
    onSuccess: () => queries.invalidateQueries(),
  });
  const handling = keptBy((field, value) => change.mutateAsync({ field: field as Field, value }));
  const parameters = useQuery({
    queryKey: ["parameters", plan_id],
    queryFn: () => answered(api.GET("/api/plans/{plan_id}/frame/parameters", { params: { path } })),
  });
  const changeParameter = useMutation({
    scope: { id: "frame" },
    mutationFn: (body: { name: string; value: string }) =>
      answered(api.POST("/api/plans/{plan_id}/frame/parameters", { params: { path }, body })),
    onSuccess: () => queries.invalidateQueries(),
  });
  const following = keptBy((place, value) =>
    changeParameter.mutateAsync({ name: place.replace(/^parameters\./, ""), value: String(value) }),
  );
  const wrong = change.error ?? changeParameter.error;
  return (
    <p className={its.frame}>
      {frame.data && <Words words={frame.data} handling={handling} />}{" "}
      {parameters.data && <Words words={parameters.data} handling={following} />}{" "}
      {wrong && (
        <span className="wrong" role="alert">
          {wrong.message}
        </span>
      )}
    </p>
  );
}

type Field = "name" | "days" | "start" | "time_zone" | "tick" | "currency";
