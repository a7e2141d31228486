import type { CostCurve } from "../../shared/api/client";
import its from "./costs.module.css";

const HEIGHT = 130;

/** What was spent and what is likely, with its band, against the budget. */
export function CurveChart({ curve }: { curve: CostCurve }) {
  const { lived, likely, low, high, budget, days } = curve;
  const last = days.length - 1;
  const all = [...lived, ...high, budget].map((value) => value ?? 0);
  const top = Math.max(1, ...all) * 1.06;
  const y = (value: number) => (HEIGHT - (value / top) * HEIGHT).toFixed(1);
  const line = (values: (number | null)[]) =>
    values
      .flatMap((value, k) => (value === null ? [] : [[k, value] as const]))
      .map(([k, value], place) => `${place ? "L" : "M"}${k},${y(value)}`)
      .join("");
  const there = likely.flatMap((value, k) => (value === null ? [] : [k]));
  const band = there.length
    ? `${there.map((k, place) => `${place ? "L" : "M"}${k},${y(high[k] ?? 0)}`).join("")}${[...there]
        .reverse()
        .map((k) => `L${k},${y(low[k] ?? 0)}`)
        .join("")}Z`
    : "";
  return (
    <figure className={its.curve}>
      <svg
        viewBox={`0 0 ${last} ${HEIGHT}`}
        preserveAspectRatio="none"
        role="img"
        aria-label={`The sum day by day: ${curve.said}`}
      >
        <path d={band} className={its.band} />
        {budget !== null && (
          <path d={`M0,${y(budget)}H${last}`} className={its.budgetLine} vectorEffect="non-scaling-stroke" />
        )}
        <path d={line(lived)} className={its.lived} vectorEffect="non-scaling-stroke" />
        <path d={line(likely)} className={its.likelyLine} vectorEffect="non-scaling-stroke" />
      </svg>
      <figcaption>
        <span>{days[0]}</span>
        <span>{curve.said}</span>
        <span>{days[last]}</span>
      </figcaption>
    </figure>
  );
}
