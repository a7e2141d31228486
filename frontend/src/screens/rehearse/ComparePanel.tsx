import { useQuery } from "@tanstack/react-query";
import { answered, api } from "../../shared/api/client";
import its from "./panel.module.css";
import { toneOf } from "./Verdict";

interface Props {
  plan: number;
  group: string;
  first: number;
  second: number;
  close: () => void;
}

/** Two takes side by side: their figures, and the sentences in which they differ. */
export function ComparePanel({ plan, group, first, second, close }: Props) {
  const query = useQuery({
    queryKey: ["comparison", plan, group, first, second],
    queryFn: () =>
      answered(
        api.GET("/api/plans/{plan_id}/groups/{group}/comparison", {
          params: { path: { plan_id: plan, group }, query: { first, second } },
        }),
      ),
    placeholderData: (before) => before,
  });
  const found = query.data;
  const rows = found && [
    ["Cost", found.before.cost, found.after.cost, "cost"],
    ["Short", found.before.short, found.after.short, "short_minutes"],
    [found.after.service.name, found.before.service.figure, found.after.service.figure, found.after.service.field],
    ["Changes", found.before.changes, found.after.changes, "changes"],
    ["Lost", found.before.lost, found.after.lost, "failed"],
  ];
  return (
    <aside className={`${its.moment} ${its.compare}`} aria-label="Two takes side by side">
      <div className={its.momentHead}>
        <h2>
          Take {first} and take {second}
        </h2>
        <button type="button" className="plain-button" onClick={close} aria-label="Close the comparison">
          ×
        </button>
      </div>
      {query.error && <p className="wrong">{query.error.message}</p>}
      {found && rows && (
        <>
          <table>
            <thead>
              <tr>
                <td />
                <th scope="col" title={found.first_change}>
                  take {first}
                </th>
                <th scope="col" title={found.second_change}>
                  take {second}
                </th>
                <td />
              </tr>
            </thead>
            <tbody>
              {rows.map(([name, before, after, figure]) => {
                const difference = found.after.differences.find((one) => one.figure === figure);
                return (
                  <tr key={name}>
                    <th scope="row">{name}</th>
                    <td>{before}</td>
                    <td>{after}</td>
                    <td className={difference && toneOf(difference)}>{difference?.text}</td>
                  </tr>
                );
              })}
            </tbody>
          </table>
          {found.sentences.map((pair) => (
            <div key={`${pair.before} ${pair.after}`} className={its.pair}>
              {pair.before && <p className={its.before}>{pair.before}</p>}
              {pair.after && <p className={its.after}>{pair.after}</p>}
            </div>
          ))}
          {found.sentences.length === 0 && <p className="quiet">Their sentences are the same.</p>}
        </>
      )}
    </aside>
  );
}
