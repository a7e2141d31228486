import type { CourseOf, ScatterView } from "../../shared/api/client";
import its from "./tune.module.css";

const WIDTH = 420;
const HEIGHT = 180;
const EDGE = { left: 46, right: 10, top: 10, bottom: 30 };

function span(values: (number | null)[]): [number, number] {
  const there = values.filter((value): value is number => value !== null);
  const [low, high] = [Math.min(...there), Math.max(...there)];
  return high > low ? [low, high] : [low - 0.5, high + 0.5];
}

/** Three digits are more than the eye reads off a chart. */
function told(value: number): string {
  return `${+value.toPrecision(3)}`;
}

/** The rows that an estimate was made of, and the line through them; those far off are hollow. */
export function ScatterChart({ name, scatter }: { name: string; scatter: ScatterView }) {
  const [left, right] = span([...scatter.x, ...scatter.line_x]);
  const top = 1.1 * Math.max(1e-9, ...scatter.y.map((value) => value ?? 0), ...scatter.line_y);
  const x = (value: number) => EDGE.left + ((value - left) / (right - left)) * (WIDTH - EDGE.left - EDGE.right);
  const y = (value: number) => HEIGHT - EDGE.bottom - (Math.max(0, value) / top) * (HEIGHT - EDGE.top - EDGE.bottom);
  const [x0 = 0, x1 = 0] = scatter.line_x;
  const [y0 = 0, y1 = 0] = scatter.line_y;
  return (
    <svg
      className={its.scatter}
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      role="img"
      aria-label={`${name}: ${scatter.up} over ${scatter.across}, ${scatter.x.length} points`}
    >
      <path d={`M${EDGE.left},${EDGE.top}V${HEIGHT - EDGE.bottom}H${WIDTH - EDGE.right}`} className={its.axis} />
      {scatter.x.map((across, k) => (
        <circle
          // biome-ignore lint/suspicious/noArrayIndexKey: the points of a cloud have no names
          key={k}
          cx={x(across ?? 0)}
          cy={y(scatter.y[k] ?? 0)}
          r="2"
          className={scatter.far[k] ? its.broken : its.dot}
        />
      ))}
      <path d={`M${x(x0)},${y(y0)}L${x(x1)},${y(y1)}`} className={its.through} />
      <text x={EDGE.left - 5} y={EDGE.top + 8} textAnchor="end">
        {told(top)}
      </text>
      <text x={EDGE.left - 5} y={HEIGHT - EDGE.bottom} textAnchor="end">
        0
      </text>
      <text x={EDGE.left} y={HEIGHT - 16} textAnchor="middle">
        {told(left)}
      </text>
      <text x={WIDTH - EDGE.right} y={HEIGHT - 16} textAnchor="end">
        {told(right)}
      </text>
      <text x={(WIDTH + EDGE.left) / 2} y={HEIGHT - 4} textAnchor="middle">
        {scatter.across}
      </text>
      <text x={EDGE.left + 6} y={EDGE.top + 8}>
        {scatter.up}
      </text>
    </svg>
  );
}

const LONG = 880;
const LOW = 110;

/** What was, dotted, and what is rehearsed over it, hour by hour. */
export function CourseChart({ course, zone }: { course: CourseOf; zone: string }) {
  const [, highest] = span([0, ...course.was, ...course.would]);
  const top = 1.2 * highest;
  const [begin = 0] = course.times;
  const end = course.times.at(-1) ?? begin + 1;
  const x = (at: number) => EDGE.left + ((at - begin) / (end - begin || 1)) * (LONG - EDGE.left - EDGE.right);
  const y = (value: number) => LOW - 18 - (value / top) * (LOW - 26);
  const path = (values: (number | null)[]) =>
    values
      .map((value, k) => (value === null ? "" : `${k ? "L" : "M"}${x(course.times[k] ?? 0)},${y(value)}`))
      .join("")
      .replace(/^L/, "M");
  const day = new Intl.DateTimeFormat("en-GB", { weekday: "short", day: "numeric", month: "short", timeZone: zone });
  return (
    <svg
      className={its.course}
      viewBox={`0 0 ${LONG} ${LOW}`}
      role="img"
      aria-label={`${course.what}: what was and what is rehearsed, ${course.times.length} hours`}
    >
      <path d={`M${EDGE.left},8V${LOW - 18}H${LONG - EDGE.right}`} className={its.axis} />
      <path d={path(course.was)} className={its.was} />
      <path d={path(course.would)} className={its.would} />
      <text x={EDGE.left + 6} y="14">
        {course.what}, <tspan className={its.wasKey}>was</tspan>, <tspan className={its.wouldKey}>rehearsed</tspan>
      </text>
      <text x={EDGE.left - 5} y="14" textAnchor="end">
        {told(top)}
      </text>
      <text x={EDGE.left} y={LOW - 4}>
        {day.format(begin)}
      </text>
      <text x={LONG - EDGE.right} y={LOW - 4} textAnchor="end">
        {day.format(end)}
      </text>
    </svg>
  );
}
