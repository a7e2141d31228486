import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { answered, api, type Change, type Rehearsed } from "../../shared/api/client";
import { MendButton } from "./MendButton";
import its from "./panel.module.css";

interface Props {
  plan: number;
  group: string;
  answer: Rehearsed;
  changes: Change[];
  /** Which of them is looked at. */
  at: number | null;
  show: (at: number) => void;
  commit: (changes: Change[]) => void;
  close: () => void;
}

/** When the group was short of capacity, what comes again as one: what the time went on, what would have prevented it, what to try. */
export function ShortPanel({ plan, group, answer, changes, at, show, commit, close }: Props) {
  const query = useQuery({
    queryKey: ["short", plan, group, answer.take.number, answer.change, answer.seed],
    placeholderData: keepPreviousData,
    queryFn: () =>
      answered(
        api.POST("/api/plans/{plan_id}/groups/{group}/shortfalls", {
          params: { path: { plan_id: plan, group } },
          body: { take: answer.take.number, changes, seed: answer.seed },
        }),
      ),
  });
  const found = query.data ?? [];
  const times = found.reduce((sum, one) => sum + one.times, 0);
  const here = found.findIndex((one) => Math.round(one.shown_at) === at);
  const next = found[(here + 1) % Math.max(1, found.length)];
  return (
    <aside className={`${its.moment} ${its.short}`} aria-label="Short of capacity">
      <div className={its.momentHead}>
        <h2>{query.data ? `Short ${times === 1 ? "once" : `${times} times`}` : "Looking it up"}</h2>
        <button type="button" className="plain-button" onClick={close} aria-label="Close the shortfalls">
          ×
        </button>
      </div>
      {query.error && <p className="wrong">{query.error.message}</p>}
      {next && found.length > 1 && (
        <button type="button" className="plain-button" onClick={() => show(next.shown_at)}>
          {here < 0 ? "the worst →" : "the next →"}
        </button>
      )}
      <ol>
        {found.map((one) => {
          const whole = one.parts.reduce((sum, part) => sum + part.minutes, 0);
          return (
            <li key={one.shown_at} className={Math.round(one.shown_at) === at ? its.here : undefined}>
              <button type="button" className={its.reason} onClick={() => show(one.shown_at)}>
                {one.text}
              </button>
              <p>
                {one.minutes} min, {one.lost_text}
              </p>
              <div
                className={its.parts}
                role="img"
                aria-label={one.parts.map((p) => `${p.text} ${p.minutes} min`).join(", ")}
              >
                {one.parts.map((part) => (
                  <i
                    key={part.cause}
                    style={{ flexGrow: part.minutes / Math.max(whole, 1e-9) }}
                    data-cause={part.cause}
                  />
                ))}
              </div>
              <p>
                {one.parts.map((part, place) => (
                  <span key={part.cause}>
                    {place > 0 && ", "}
                    <b>{part.text}</b> {part.minutes} min
                  </span>
                ))}
                .
              </p>
              <p className="quiet">
                {one.prevented}. {one.mend && <MendButton mend={one.mend} lead="try " commit={commit} />}
              </p>
            </li>
          );
        })}
      </ol>
    </aside>
  );
}
