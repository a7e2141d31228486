import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type ArrangementLine, answered, api } from "../../shared/api/client";
import its from "./panel.module.css";

interface Props {
  plan: number;
  group: string;
  lines: ArrangementLine[];
  goTo: (take: number) => void;
  close: () => void;
}

/** What was saved of the group: which one is in use, why each was made, and how to have one again. */
export function ArrangementsPanel({ plan, group, lines, goTo, close }: Props) {
  const queries = useQueryClient();
  const restore = useMutation({
    mutationFn: (number: number) =>
      answered(
        api.POST("/api/plans/{plan_id}/groups/{group}/arrangements/{number}/restore", {
          params: { path: { plan_id: plan, group, number } },
        }),
      ),
    onSuccess: async (made) => {
      await queries.invalidateQueries();
      goTo(made.take);
    },
  });
  return (
    <aside className={`${its.moment} ${its.arrangements}`} aria-label="Arrangements">
      <div className={its.momentHead}>
        <h2>Arrangements of {group}</h2>
        <button type="button" className="plain-button" onClick={close} aria-label="Close the arrangements">
          ×
        </button>
      </div>
      {restore.error && <p className="wrong">{restore.error.message}</p>}
      <ul>
        {lines.map((line, place) => (
          <li key={line.number}>
            <span>
              <b>{line.number}</b> {line.note}
              <small className="quiet">
                {" "}
                {line.created.slice(0, 16).replace("T", " ")} UTC{line.in_use && ", in use"}
              </small>
            </span>
            <span className={its.rowActs}>
              <a
                className="plain-button"
                href={`/api/plans/${plan}/groups/${group}/arrangements/${line.number}/report.html`}
                target="_blank"
                rel="noreferrer"
              >
                report
              </a>
              {lines[place + 1] && (
                <a
                  className="plain-button"
                  href={`/api/plans/${plan}/groups/${group}/arrangements/${lines[place + 1]?.number}/difference/${line.number}`}
                  target="_blank"
                  rel="noreferrer"
                  title={`Line by line of the plan file, against arrangement ${lines[place + 1]?.number}`}
                >
                  difference
                </a>
              )}
              {!line.in_use && (
                <button
                  type="button"
                  className="plain-button"
                  disabled={restore.isPending}
                  onClick={() => restore.mutate(line.number)}
                >
                  restore
                </button>
              )}
            </span>
          </li>
        ))}
      </ul>
    </aside>
  );
}
