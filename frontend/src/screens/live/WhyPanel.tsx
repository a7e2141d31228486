import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { answered, api } from "../../shared/api/client";
import its from "./live.module.css";

interface Props {
  plan: number;
  group: string;
  at: number;
  goTo: (at: number) => void;
  close: () => void;
}

/** Why the count of a group was what it was at a time, from the evaluation that decided it. */
export function WhyPanel({ plan, group, at, goTo, close }: Props) {
  const found = useQuery({
    queryKey: ["live why", plan, group, at],
    placeholderData: keepPreviousData,
    queryFn: () =>
      answered(
        api.GET("/api/plans/{plan_id}/live/groups/{group}/moment", {
          params: { path: { plan_id: plan, group }, query: { at } },
        }),
      ),
  });
  const told = found.data;
  return (
    <section className={its.why} aria-label="The moment" aria-live="polite">
      <div className={its.journalHead}>
        <h2>
          {group}, {told?.moment.title ?? "…"}
        </h2>
        <button type="button" className="plain-button" onClick={close} aria-label="Close the moment">
          ×
        </button>
      </div>
      {found.error && <p className="wrong">{found.error.message}</p>}
      {told && (
        <>
          <p>
            <button
              type="button"
              className="plain-button"
              disabled={told.previous === null}
              onClick={() => told.previous !== null && goTo(told.previous)}
            >
              ← decision before
            </button>{" "}
            <button
              type="button"
              className="plain-button"
              disabled={told.following === null}
              onClick={() => told.following !== null && goTo(told.following)}
            >
              decision after →
            </button>
          </p>
          <ul>
            {told.moment.reasons.map((reason) => (
              <li key={reason.text}>
                <span>{reason.text}</span> <b className={`ink-${reason.tone}`}>{reason.outcome}</b>
              </li>
            ))}
          </ul>
          <p className={its.decision}>{told.moment.decision}</p>
          <p className="quiet">Not more: {told.moment.not_more}</p>
          <p className="quiet">Not fewer: {told.moment.not_fewer}</p>
        </>
      )}
    </section>
  );
}
