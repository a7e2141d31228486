import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { answered, api, type TakeLine } from "../../shared/api/client";

interface Props {
  takes: TakeLine[];
  current: number;
  change: string | null;
  ghost: number | null;
  goTo: (take: number) => void;
  setGhost: (take: number | null) => void;
  compare: (take: number) => void;
  keep: () => void;
  putBack: () => void;
  plan: number;
  group: string;
}

/** The takes as numbered chips, each naming the change that made it: go back, star, show as a ghost. */
export function Takes({ takes, current, change, ghost, goTo, setGhost, compare, keep, putBack, plan, group }: Props) {
  const queries = useQueryClient();
  const row = useRef<HTMLElement>(null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the row scrolls to the current chip when that changes
  useEffect(() => {
    row.current
      ?.querySelector("[aria-current=true]")
      ?.closest(".take")
      ?.scrollIntoView({ block: "nearest", inline: "nearest" });
  }, [current, takes.length]);
  const star = async (take: TakeLine) => {
    const query = take.starred ? {} : { take: take.number };
    await answered(
      api.PUT("/api/plans/{plan_id}/groups/{group}/star", { params: { path: { plan_id: plan, group }, query } }),
    );
    await queries.invalidateQueries({ queryKey: ["takes", plan, group] });
    goTo(current);
  };
  return (
    <section className="takes" ref={row} aria-label="Takes">
      {takes.map((take) => {
        const here = take.number === current;
        const behind = take.number === ghost;
        return (
          <span
            key={take.number}
            className={`take${here ? " here" : ""}${behind ? " ghost" : ""}`}
            data-take={take.number}
          >
            <button
              type="button"
              className="name"
              aria-current={here}
              title={take.change}
              onClick={() => goTo(take.number)}
            >
              {take.number} · {take.change}
            </button>
            <button
              type="button"
              className={take.starred ? "mark on" : "mark"}
              aria-pressed={take.starred}
              aria-label={take.starred ? `Take ${take.number} is starred` : `Star take ${take.number}`}
              title={take.starred ? "Starred: the others are compared with it" : "Compare the others with this one"}
              onClick={() => star(take)}
            >
              {take.starred ? "★" : "☆"}
            </button>
            {!here && (
              <button
                type="button"
                className={behind ? "mark on" : "mark"}
                aria-pressed={behind}
                aria-label={`Show take ${take.number} as a ghost`}
                title="Draw it dotted behind the current one"
                onClick={() => setGhost(behind ? null : take.number)}
              >
                ┄
              </button>
            )}
            {!here && (
              <button
                type="button"
                className="mark"
                aria-label={`Lay take ${take.number} beside the current one`}
                title="Side by side with the current one: figures and sentences"
                onClick={() => compare(take.number)}
              >
                ⇆
              </button>
            )}
          </span>
        );
      })}
      {change && (
        <span className="take trying" aria-live="polite">
          trying: {change}
          <button
            type="button"
            className="mark"
            onClick={keep}
            aria-label="Keep it as a take"
            title="Keep it as a take"
          >
            ✓
          </button>
          <button type="button" className="mark" onClick={putBack} aria-label="Put it back" title="Put it back">
            ×
          </button>
        </span>
      )}
    </section>
  );
}
