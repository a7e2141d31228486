import { useQuery } from "@tanstack/react-query";
import { answered, api, type Change, type Rehearsed } from "../../shared/api/client";
import { clockText } from "../../shared/time/clock";
import { CourseStrips } from "./CourseStrips";
import its from "./panel.module.css";

interface Props {
  plan: number;
  group: string;
  answer: Rehearsed;
  changes: Change[];
  instance: number;
  choose: (instance: number) => void;
  close: () => void;
}

/** The life of one instance, from its request to its end. */
export function LifePanel({ plan, group, answer, changes, instance, choose, close }: Props) {
  const query = useQuery({
    queryKey: ["life", plan, group, answer.take.number, answer.change, answer.seed, instance],
    queryFn: () =>
      answered(
        api.POST("/api/plans/{plan_id}/groups/{group}/instances", {
          params: { path: { plan_id: plan, group } },
          body: { take: answer.take.number, changes, seed: answer.seed, instance },
        }),
      ),
    placeholderData: (before) => before,
    retry: false,
  });
  const life = query.data;
  return (
    <aside className={`${its.moment} life`} aria-label="An instance's life" aria-live="polite">
      <div className={its.momentHead}>
        <h2>{life?.title ?? "Looking it up"}</h2>
        <button type="button" className="plain-button" onClick={close} aria-label="Close the life">
          ×
        </button>
      </div>
      <div className={its.steps}>
        <button type="button" className="plain-button" disabled={instance <= 1} onClick={() => choose(instance - 1)}>
          ← instance before
        </button>
        <button type="button" className="plain-button" disabled={query.isError} onClick={() => choose(instance + 1)}>
          instance after →
        </button>
      </div>
      {query.error && <p className="wrong">{query.error.message}</p>}
      {life && !query.error && (
        <>
          <dl className={its.why}>
            {life.facts.map(({ heading, text }) => (
              <Fact key={heading} heading={heading} text={text} />
            ))}
          </dl>
          {life.course && <CourseStrips course={life.course} zone={answer.time_zone} />}
          <ul>
            {life.events.map((event) => (
              <li key={event.time + event.text}>
                <span>{event.text}</span>
                <b className="ink-quiet">{clockText(Date.parse(event.time), answer.time_zone)}</b>
              </li>
            ))}
          </ul>
        </>
      )}
    </aside>
  );
}

function Fact({ heading, text }: { heading: string; text: string }) {
  return (
    <>
      <dt>{heading}</dt>
      <dd>{text}</dd>
    </>
  );
}
