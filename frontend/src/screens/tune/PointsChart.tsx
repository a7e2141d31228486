import type { SearchView } from "../../shared/api/client";
import its from "./tune.module.css";

const WIDTH = 880;
const HEIGHT = 300;
const EDGE = { left: 46, right: 12, top: 12, bottom: 26 };

function ticks(low: number, high: number, number: number): number[] {
  const rough = (high - low) / number || 1;
  const power = 10 ** Math.floor(Math.log10(rough));
  const step = [1, 2, 5, 10].map((one) => one * power).find((one) => one >= rough) ?? rough;
  const found: number[] = [];
  for (let at = Math.ceil(low / step) * step; at <= high + 1e-9; at += step) found.push(+at.toPrecision(6));
  return found;
}

interface Props {
  view: SearchView;
  chosen: number | null;
  choose: (set: number) => void;
}

/** Each point a set of settings: what it costs against how long it is short. What nothing beats in both is joined by a line. */
export function PointsChart({ view, chosen, choose }: Props) {
  const { points, as_is_cost: cost, as_is_short: short } = view;
  const costs = [...points.cost.map((one) => one ?? 0), ...(cost === null ? [] : [cost])];
  const shorts = [...points.short.map((one) => one ?? 0), ...(short === null ? [] : [short])];
  const [low, high] = [Math.min(...costs) * 0.98, Math.max(...costs) * 1.02];
  // Most sets are short for little, a few for very long: the scale is that of the logarithm of one more.
  const top = Math.log1p(Math.max(1, ...shorts));
  const x = (value: number) => EDGE.left + ((value - low) / (high - low || 1)) * (WIDTH - EDGE.left - EDGE.right);
  const y = (value: number) => HEIGHT - EDGE.bottom - (Math.log1p(value) / top) * (HEIGHT - EDGE.top - EDGE.bottom);
  const front = points.number
    .map((number, k) => ({ number, cost: points.cost[k] ?? 0, short: points.short[k] ?? 0, on: points.on_front[k] }))
    .filter((one) => one.on)
    .sort((one, other) => one.cost - other.cost);
  const marks = [0, 1, 3, 10, 30, 100, 300, 1000, 3000].filter((one) => Math.log1p(one) <= top);
  return (
    <svg
      className={its.points}
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      role="img"
      aria-label={`${points.number.length} sets: cost against minutes short; ${view.said}`}
    >
      {marks.map((mark) => (
        <g key={mark}>
          <path d={`M${EDGE.left},${y(mark)}H${WIDTH - EDGE.right}`} className={its.gridline} />
          <text x={EDGE.left - 6} y={y(mark) + 4} textAnchor="end">
            {mark} {mark === 0 ? "min" : ""}
          </text>
        </g>
      ))}
      {ticks(low, high, 5).map((mark) => (
        <text key={mark} x={x(mark)} y={HEIGHT - 8} textAnchor="middle">
          {view.currency} {mark}
        </text>
      ))}
      {points.number.map((number, k) => (
        // biome-ignore lint/a11y/noStaticElementInteractions: the front is walked by its buttons; a point is a shortcut to one
        <circle
          key={number}
          cx={x(points.cost[k] ?? 0)}
          cy={y(points.short[k] ?? 0)}
          r={points.on_front[k] ? 4 : 3}
          className={points.kept[k] ? its.kept : its.broken}
          onClick={() => choose(number)}
        >
          <title>{`Set ${number}: ${view.currency} ${points.cost[k]}, short ${points.short[k]} min`}</title>
        </circle>
      ))}
      <path
        d={front.map((one, k) => `${k ? "L" : "M"}${x(one.cost).toFixed(1)},${y(one.short).toFixed(1)}`).join("")}
        className={its.front}
      />
      {cost !== null && short !== null && (
        <g>
          <circle cx={x(cost)} cy={y(short)} r="7" className={its.asIs} />
          <text x={x(cost) + 11} y={y(short) + 4} className={its.asIsText}>
            as it is
          </text>
        </g>
      )}
      {chosen !== null && points.number.includes(chosen) && (
        <circle
          cx={x(points.cost[points.number.indexOf(chosen)] ?? 0)}
          cy={y(points.short[points.number.indexOf(chosen)] ?? 0)}
          r="8"
          className={its.chosenPoint}
        />
      )}
    </svg>
  );
}
