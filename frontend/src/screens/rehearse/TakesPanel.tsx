import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { answered, api, type TakeLine } from "../../shared/api/client";
import its from "./panel.module.css";
import { useStar } from "./Takes";

interface Props {
  plan: number;
  group: string;
  takes: TakeLine[];
  current: number;
  goTo: (take: number) => void;
  compare: (take: number) => void;
  close: () => void;
}

type Column = { title: string; say: (take: TakeLine) => string; by: (take: TakeLine) => number };

const COLUMNS: Column[] = [
  { title: "Take", say: (take) => `${take.number} · ${take.change}`, by: (take) => -take.number },
  { title: "Cost", say: (take) => take.cost, by: (take) => take.figures.cost },
  { title: "Short", say: (take) => take.short, by: (take) => take.figures.short_minutes },
  {
    title: "Service",
    say: (take) => take.service,
    by: (take) => take.figures.latency_p95_ms ?? take.figures.wait_p95_s ?? take.figures.failed,
  },
  {
    title: "Kept",
    say: (take) => take.kept,
    by: (take) => (take.figures.promises ?? 0) - (take.figures.promises_kept ?? 0),
  },
];

/** All takes with how they did, the best first by whichever column is pressed. */
export function TakesPanel({ plan, group, takes, current, goTo, compare, close }: Props) {
  const [sorted, setSorted] = useState(0);
  const star = useStar(plan, group, () => undefined);
  const queries = useQueryClient();
  const drop = useMutation({
    mutationFn: (number: number) =>
      answered(
        api.DELETE("/api/plans/{plan_id}/groups/{group}/takes/{number}", {
          params: { path: { plan_id: plan, group, number } },
        }),
      ),
    onSettled: () => queries.invalidateQueries({ queryKey: ["takes", plan, group] }),
  });
  const newest = Math.max(...takes.map((take) => take.number));
  const by = COLUMNS[sorted]?.by ?? (() => 0);
  const shown = [...takes].sort((one, other) => by(one) - by(other) || other.number - one.number);
  return (
    <aside className={`${its.moment} ${its.takesList}`} aria-label="All takes">
      <div className={its.momentHead}>
        <h2>{takes.length} takes</h2>
        <button type="button" className="plain-button" onClick={close} aria-label="Close the takes">
          ×
        </button>
      </div>
      {drop.error && <p className="wrong">{drop.error.message}</p>}
      <table>
        <thead>
          <tr>
            {COLUMNS.map(({ title }, place) => (
              <th key={title} scope="col" aria-sort={place === sorted ? "ascending" : "none"}>
                <button type="button" className="plain-button" onClick={() => setSorted(place)}>
                  {title}
                </button>
              </th>
            ))}
            <th scope="col">
              <span className="sr">Acts</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {shown.map((take) => (
            <tr key={take.number} className={take.number === current ? its.here : undefined}>
              {COLUMNS.map(({ title, say }, place) =>
                place === 0 ? (
                  <th key={title} scope="row">
                    <button type="button" className={its.reason} title={take.change} onClick={() => goTo(take.number)}>
                      {say(take)}
                    </button>
                  </th>
                ) : (
                  <td key={title} className={title === "Kept" && take.broken ? "worse" : undefined}>
                    {say(take)}
                  </td>
                ),
              )}
              <td className={its.rowActs}>
                <button
                  type="button"
                  className="plain-button"
                  aria-pressed={take.starred}
                  aria-label={take.starred ? `Take the star from ${take.number}` : `Star ${take.number}`}
                  onClick={() => star(take)}
                >
                  {take.starred ? "★" : "☆"}
                </button>
                {take.number !== current && (
                  <button
                    type="button"
                    className="plain-button"
                    aria-label={`Compare with take ${take.number}`}
                    title="Compare with the current one"
                    onClick={() => compare(take.number)}
                  >
                    vs
                  </button>
                )}
                {take.number !== current && take.number !== newest && !take.starred && (
                  <button
                    type="button"
                    className="plain-button"
                    aria-label={`Take ${take.number} out`}
                    title="Take it out of the list for good"
                    onClick={() => drop.mutate(take.number)}
                  >
                    ×
                  </button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </aside>
  );
}
