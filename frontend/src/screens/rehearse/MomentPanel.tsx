import { keepPreviousData, type UseQueryResult, useQuery } from "@tanstack/react-query";
import { answered, api, type Change, type MomentView, type Rehearsed } from "../../shared/api/client";
import { Members } from "../../shared/life/Members";
import { MarketTable } from "../../shared/market/MarketTable";
import its from "./panel.module.css";

/** The evaluation at or before a time, for what is shown now, edits included. */
export function useMoment(
  planId: number | undefined,
  group: string,
  answer: Rehearsed | null,
  changes: Change[],
  at: number | null,
): UseQueryResult<MomentView> {
  return useQuery({
    queryKey: ["moment", planId, group, answer?.take.number, answer?.change, answer?.seed, at],
    enabled: planId !== undefined && answer !== null && at !== null,
    placeholderData: keepPreviousData,
    queryFn: () =>
      answered(
        api.POST("/api/plans/{plan_id}/groups/{group}/moments", {
          params: { path: { plan_id: planId ?? 0, group } },
          body: { take: answer?.take.number ?? null, changes, seed: answer?.seed ?? null, at: at ?? 0 },
        }),
      ),
  });
}

interface Props {
  query: UseQueryResult<MomentView>;
  close: () => void;
  walk: (by: -1 | 1) => void;
}

/** Why this count, and not more or less: what each policy saw and asked, what held it back, who is on the way. */
export function MomentPanel({ query, close, walk }: Props) {
  const found = query.data;
  const point = (key: string | null | undefined) => {
    const sentence = key ? document.getElementById(`sentence-${key}`) : null;
    sentence?.scrollIntoView({ block: "nearest" });
    sentence?.querySelector<HTMLElement>("[data-path]")?.focus();
  };
  return (
    <aside className={its.moment} aria-label="The moment" aria-live="polite">
      <div className={its.momentHead}>
        <h2>{found?.moment.title ?? "Looking it up"}</h2>
        <button type="button" className="plain-button" onClick={close} aria-label="Close the moment">
          ×
        </button>
      </div>
      {query.error && <p className="wrong">{query.error.message}</p>}
      {found && (
        <>
          <div className={its.steps}>
            <button type="button" className="plain-button" disabled={found.previous === null} onClick={() => walk(-1)}>
              ← decision before
            </button>
            <button type="button" className="plain-button" disabled={found.following === null} onClick={() => walk(1)}>
              decision after →
            </button>
          </div>
          <ul>
            {found.moment.reasons.map((reason) => (
              <li key={reason.text}>
                {reason.key ? (
                  <button type="button" className={its.reason} onClick={() => point(reason.key)}>
                    {reason.text}
                  </button>
                ) : (
                  <span>{reason.text}</span>
                )}
                <b className={`ink-${reason.tone}`}>{reason.outcome}</b>
              </li>
            ))}
          </ul>
          <p className={its.decision}>{found.moment.decision}</p>
          <dl className={its.why}>
            <dt>Not more</dt>
            <dd>{found.moment.not_more}</dd>
            <dt>Not fewer</dt>
            <dd>{found.moment.not_fewer}</dd>
          </dl>
          {found.behind && <Members behind={found.behind} narrow />}
          {found.moment.buys && <MarketTable said={found.moment.buys} market={found.moment.market} />}
          <p className={its.outlook}>{found.outlook}</p>
        </>
      )}
    </aside>
  );
}
