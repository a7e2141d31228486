import { useQueryClient } from "@tanstack/react-query";
import { clsx } from "clsx";
import { useEffect, useMemo, useRef } from "react";
import { type Act, useOffered } from "../../shared/acts/acts";
import { answered, api, type TakeLine } from "../../shared/api/client";
import its from "./verdict.module.css";

// So many of the newest have a chip; the others are in the list.
const CHIPS = 12;

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
  /** Lists them all. */
  list: () => void;
  plan: number;
  group: string;
}

/** Stars a take, or takes its star away. */
export function useStar(plan: number, group: string, after: () => void): (take: TakeLine) => Promise<void> {
  const queries = useQueryClient();
  return async (take) => {
    const query = take.starred ? {} : { take: take.number };
    await answered(
      api.PUT("/api/plans/{plan_id}/groups/{group}/star", { params: { path: { plan_id: plan, group }, query } }),
    );
    await queries.invalidateQueries({ queryKey: ["takes", plan, group] });
    after();
  };
}

/** The takes as numbered chips, each naming the change that made it and how it did: go back, star, show as a ghost. */
export function Takes(props: Props) {
  const { takes, current, change, ghost, goTo, setGhost, compare, keep, putBack, list, plan, group } = props;
  const star = useStar(plan, group, () => goTo(current));
  const shown = takes.filter(
    (take, place) => place >= takes.length - CHIPS || take.starred || take.number === current || take.number === ghost,
  );
  useOffered(
    useMemo(
      (): Act[] => [
        ...(change
          ? [
              { group: "Do here", label: "Keep what is tried as a take", keys: ["mod + Enter"], run: keep },
              { group: "Do here", label: "Put back what is tried", run: putBack },
            ]
          : []),
        ...takes
          .filter((take) => take.number !== current)
          .map((take) => ({
            group: "Takes",
            label: `Compare with take ${take.number}`,
            about: `${take.change}: ${take.cost}${take.kept && `, ${take.kept} promises kept`}`,
            also: "difference side by side versus",
            run: () => compare(take.number),
          })),
      ],
      [takes, current, change, keep, putBack, compare],
    ),
  );
  // What one most likely compares with shows how without being pointed at.
  const near = [takes.findLast((take) => take.number !== current), takes.find((take) => take.starred)].map(
    (take) => take?.number ?? 0,
  );
  const row = useRef<HTMLElement>(null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the row scrolls to the current chip when that changes
  useEffect(() => {
    row.current
      ?.querySelector("[aria-current=true]")
      ?.closest("[data-take]")
      ?.scrollIntoView({ block: "nearest", inline: "nearest" });
  }, [current, takes.length]);
  return (
    <section className={its.takes} ref={row} aria-label="Takes">
      {takes.length > 1 && (
        <button type="button" className="plain-button" title="All takes, sorted by how they did" onClick={list}>
          {takes.length > shown.length ? `all ${takes.length}` : "list"}
        </button>
      )}
      {shown.map((take) => {
        const here = take.number === current;
        const behind = take.number === ghost;
        return (
          <span
            key={take.number}
            className={clsx(its.take, here && its.here, behind && its.ghost, near.includes(take.number) && its.near)}
            data-take={take.number}
          >
            <button
              type="button"
              className={its.name}
              aria-current={here}
              title={take.change}
              onClick={() => goTo(take.number)}
            >
              {take.number} · {take.change}
            </button>
            <span
              className={take.broken ? `${its.did} worse` : its.did}
              title={take.kept && `${take.kept} promises kept, when it was made`}
            >
              {take.cost}
              {take.kept && (take.broken ? " ✗" : " ✓")}
            </span>
            <button
              type="button"
              className={take.starred ? `${its.mark} ${its.on}` : its.mark}
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
                className={behind ? `${its.mark} ${its.wordMark} ${its.on}` : `${its.mark} ${its.wordMark}`}
                aria-pressed={behind}
                aria-label={`Show take ${take.number} as a ghost`}
                title="Draw it dotted behind the current one"
                onClick={() => setGhost(behind ? null : take.number)}
              >
                ghost
              </button>
            )}
            {!here && (
              <button
                type="button"
                className={`${its.mark} ${its.wordMark}`}
                aria-label={`Lay take ${take.number} beside the current one`}
                title="Side by side with the current one: figures and sentences"
                onClick={() => compare(take.number)}
              >
                compare
              </button>
            )}
          </span>
        );
      })}
      {change && (
        <span className={`${its.take} ${its.trying}`} aria-live="polite">
          trying: {change}
          <button
            type="button"
            className={its.mark}
            onClick={keep}
            aria-label="Keep it as a take"
            title="Keep it as a take"
          >
            ✓
          </button>
          <button type="button" className={its.mark} onClick={putBack} aria-label="Put it back" title="Put it back">
            ×
          </button>
        </span>
      )}
    </section>
  );
}
