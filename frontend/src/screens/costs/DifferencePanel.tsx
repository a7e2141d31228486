import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answered, api, type PlanView } from "../../shared/api/client";
import { Choice } from "../../shared/words/Choice";
import its from "./costs.module.css";

/** Why a day of a group came to another amount than was rehearsed: one thing after the other put in place. */
export function DifferencePanel({ plan, day, groups }: { plan: PlanView; day: string; groups: string[] }) {
  const [group, setGroup] = useState(groups[0] ?? "");
  const found = useQuery({
    queryKey: ["costs", plan.id, "difference", group, day],
    queryFn: () =>
      answered(
        api.GET("/api/plans/{plan_id}/costs/difference", {
          params: { path: { plan_id: plan.id }, query: { group, day } },
        }),
      ),
  });
  return (
    <section aria-label="Rehearsed and lived">
      <h2>
        Rehearsed and lived <Choice label="Of which group" value={group} options={groups} set={setGroup} />
      </h2>
      {found.isPending && <p className="quiet">The day is played again, with one thing more in place each time.</p>}
      {found.error && <p className="wrong">{found.error.message}</p>}
      {found.data && (
        <table className={its.table}>
          <thead>
            <tr>
              <th scope="col">One after the other</th>
              <th scope="col">Amount</th>
              <th scope="col">Instances</th>
            </tr>
          </thead>
          <tbody>
            <tr>
              <th scope="row">rehearsed</th>
              <td colSpan={2}>{found.data.rehearsed}</td>
            </tr>
            {found.data.parts.map((part) => (
              <tr key={part.what}>
                <th scope="row">{part.what}</th>
                <td>{part.amount}</td>
                <td>{part.count}</td>
              </tr>
            ))}
            <tr>
              <th scope="row">lived</th>
              <td colSpan={2}>
                <b>{found.data.lived}</b>
              </td>
            </tr>
          </tbody>
        </table>
      )}
    </section>
  );
}
