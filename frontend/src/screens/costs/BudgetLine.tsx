import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { answered, api, type Budget, type CostsView, type PlanView } from "../../shared/api/client";
import { Choice } from "../../shared/words/Choice";
import { TypedBlank } from "../../shared/words/TypedBlank";
import its from "./costs.module.css";

const ALL = "all groups";

/** The budgets as sentences, and one more. */
export function BudgetLine({ plan, view, reached }: { plan: PlanView; view: CostsView; reached: string | null }) {
  const [writing, setWriting] = useState(false);
  const [whose, setWhose] = useState(ALL);
  const [each, setEach] = useState<"week" | "month">("month");
  const [most, setMost] = useState<number | null>(1000);
  const queries = useQueryClient();
  const params = { path: { plan_id: plan.id } };
  const budgets = useQuery({
    queryKey: ["costs", plan.id, "budgets"],
    queryFn: () => answered(api.GET("/api/plans/{plan_id}/costs/budgets", { params })),
  });
  const put = useMutation({
    scope: { id: "budgets" },
    mutationFn: (change: (now: Budget[]) => Budget[]) =>
      answered(
        api.PUT("/api/plans/{plan_id}/costs/budgets", {
          params,
          body: { budgets: change(budgets.data ?? []) },
        }),
      ),
    onSuccess: async () => {
      setWriting(false);
      await queries.invalidateQueries({ queryKey: ["costs", plan.id] });
    },
  });
  return (
    <div className={its.budgets}>
      {view.budgets.map((one) => (
        <span key={one.text} className={one.over ? "wrong" : undefined}>
          Budget of {one.text}: {one.spent} spent, {Math.round(one.share * 100)} %.{" "}
          <button
            type="button"
            className="plain-button"
            aria-label={`Take out the budget of ${one.text}`}
            onClick={() => put.mutate((now) => now.filter((_, number) => number !== one.number))}
          >
            ×
          </button>
        </span>
      ))}
      {reached && <b className="wrong">That of all groups is likely to be reached on {reached}.</b>}
      {writing ? (
        <form
          onSubmit={(event) => {
            event.preventDefault();
            if (most !== null)
              put.mutate((now) => [...now, { group: whose === ALL ? null : whose, each, at_most: most }]);
          }}
        >
          At most{" "}
          <TypedBlank label="Amount" how={{ measure: "money", unit: view.currency }} first="1,000" set={setMost} /> a{" "}
          <Choice label="Each" value={each} options={["week", "month"]} set={(one) => setEach(one as "week")} /> for{" "}
          <Choice label="Whose" value={whose} options={[ALL, ...plan.groups]} set={setWhose} />{" "}
          <button type="submit" className="solid-button" disabled={most === null || put.isPending}>
            Keep it
          </button>{" "}
          <button type="button" className="plain-button" onClick={() => setWriting(false)}>
            leave it
          </button>
        </form>
      ) : (
        <button type="button" className="plain-button" onClick={() => setWriting(true)}>
          + budget
        </button>
      )}
      {put.error && <span className="wrong">{put.error.message}</span>}
    </div>
  );
}
