import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answered, api, type NewGroupBody, type PlanView } from "../../shared/api/client";
import its from "./groups.module.css";

interface Props {
  plan: PlanView;
  asked: Omit<NewGroupBody, "name">;
  like: string | null;
  take: (change: {
    like: string | null;
    minimum?: number;
    maximum?: number;
    start?: "minimum";
    balancer?: boolean;
    policies?: "suited";
  }) => void;
}

/** Arrangements to begin from, each rehearsed as this group, with the reason of each choice. */
export function StartsPanel({ plan, asked, like, take }: Props) {
  const [shown, setShown] = useState(false);
  const starts = useQuery({
    queryKey: ["starts", plan.id, plan.revision, asked.template, asked.kind, asked.size, asked.seats, asked.demand],
    enabled: shown,
    placeholderData: (before) => before,
    queryFn: () =>
      answered(
        api.POST("/api/plans/{plan_id}/groups/starts", {
          params: { path: { plan_id: plan.id } },
          body: { name: "", ...asked, start: null },
        }),
      ),
  });
  const chosen = starts.data?.find((one) => one.name === like);
  return (
    <section className={its.starts} aria-label="What to begin from">
      <button type="button" className="plain-button" aria-expanded={shown} onClick={() => setShown(!shown)}>
        {like && chosen ? `begun from: ${chosen.title.toLowerCase()}` : "begin from what it is for"}
      </button>
      {shown && starts.error && <p className="wrong">{starts.error.message}</p>}
      {shown && starts.data && (
        <table>
          <tbody>
            {starts.data.map((one) => (
              <tr key={one.name} className={one.name === like ? its.taken : undefined}>
                <th scope="row">
                  <button
                    type="button"
                    className="plain-button"
                    aria-pressed={one.name === like}
                    onClick={() =>
                      take({
                        like: one.name,
                        minimum: one.minimum,
                        maximum: one.maximum,
                        start: "minimum",
                        balancer: one.load_balancer,
                        policies: "suited",
                      })
                    }
                  >
                    {one.title}
                  </button>
                </th>
                <td>{one.what}</td>
                <td>{one.cost}</td>
                <td>short {one.short}</td>
                <td>{one.kept} kept</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {shown && chosen && (
        <dl>
          {chosen.reasons.map((reason) => (
            <div key={reason.about}>
              <dt>{reason.about}</dt>
              <dd>{reason.why}</dd>
            </div>
          ))}
        </dl>
      )}
    </section>
  );
}
