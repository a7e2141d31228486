import type { ReactNode } from "react";
import type { Difference, VerdictView } from "../../shared/api/client";
import { held } from "../../shared/words/units";
import its from "./verdict.module.css";

/** Whether a difference is for the better, for the worse, or neither, as the name of a style. */
export function toneOf(difference: Difference): string {
  return difference.better === null ? "quiet" : difference.better ? "better" : "worse";
}

/** The verdict: five figures, each with its difference from the starred take, and the promises judged. */
export function Verdict({ verdict, short }: { verdict: VerdictView; short: () => void }) {
  const { bounds, promises, compared_with: compared } = verdict;
  const answers = promises.filter((promise) => promise.kind !== "cost");
  const cost = promises.filter((promise) => promise.kind === "cost");
  const difference = (figure: string) => {
    const found = verdict.differences.find((one) => one.figure === figure);
    if (!found) return null;
    return (
      <span className={toneOf(found)} title={`against take ${compared}`}>
        {found.text}
      </span>
    );
  };
  const place = bounds.place;
  const open = verdict.whole ? "none" : "…";
  return (
    <dl className={its.verdict} aria-label="Verdict">
      <Figure name={`Cost of ${verdict.span}`} figure={verdict.cost} difference={difference("cost")} judged={cost} />
      <Figure
        name="Short of capacity"
        figure={verdict.short}
        look={verdict.figures.short_minutes > 0 ? short : undefined}
        difference={difference("short_minutes")}
        note={verdict.lost}
      />
      <Figure
        name={verdict.service.name}
        figure={verdict.service.figure}
        difference={difference(verdict.service.field)}
        judged={answers}
        note={verdict.service.reach}
      />
      <Figure
        name="Changes of count"
        figure={verdict.changes}
        difference={difference("changes")}
        note={verdict.counts}
      />
      <div className={its.bounds}>
        <dt>Bounds of cost</dt>
        <dd>
          <div className={its.bar} role="img" aria-label={boundsText(bounds, verdict.whole)}>
            {place !== null && <i style={{ left: `${Math.min(100, Math.max(0, place * 100))}%` }} />}
          </div>
          <div className={its.ends}>
            <span>
              foresight
              <br />
              {bounds.foresight ?? open}
            </span>
            <span>
              always-peak
              <br />
              {bounds.always_peak ?? open}
            </span>
          </div>
        </dd>
      </div>
      {verdict.shared_out && (
        <div className={its.rollouts}>
          <dt>Shared out</dt>
          <dd>{verdict.shared_out}</dd>
        </div>
      )}
      {verdict.rollouts.length > 0 && (
        <div className={its.rollouts}>
          <dt>{verdict.rollouts.length === 1 ? "Rollout" : "Rollouts"}</dt>
          {verdict.rollouts.map((told) => (
            <dd key={told}>{told}</dd>
          ))}
        </div>
      )}
    </dl>
  );
}

function boundsText(bounds: VerdictView["bounds"], whole: boolean): string {
  if (bounds.foresight === null)
    return whole ? "None for a host or its guests, whose counts hang together" : "Being looked for";
  if (bounds.place === null) return `Foresight ${bounds.foresight}, always-peak ${bounds.always_peak}`;
  const share = Math.round(bounds.place * 100);
  return `${share} % of the way from foresight (${bounds.foresight}) to always-peak (${bounds.always_peak})`;
}

function Figure(props: {
  name: string;
  figure: string;
  difference: ReactNode;
  judged?: VerdictView["promises"];
  note?: string;
  /** Leads to what is behind the figure. */
  look?: (() => void) | undefined;
}) {
  return (
    <div>
      <dt>{props.name}</dt>
      <dd>
        {props.look ? (
          <button type="button" className={its.figure} title="When, why, and what to try" onClick={props.look}>
            <b>{props.figure}</b>
          </button>
        ) : (
          <b>{props.figure}</b>
        )}{" "}
        {props.difference}
        {props.judged?.map((promise) => (
          <span key={promise.text} className={promise.kept ? its.kept : its.broken}>
            {promise.kept ? "✓ kept: " : "✗ broken: "}
            {held(promise.text)}
            {promise.kind !== "cost" && held(`; ${promise.measured}`)}
          </span>
        ))}
        {props.note && <span className={`${its.kept} quiet`}>{props.note}</span>}
      </dd>
    </div>
  );
}
