import type { SearchView } from "../../shared/api/client";
import its from "./tune.module.css";

const WIDTH = 880;
const HEIGHT = 260;
const EDGE = { left: 64, right: 64, top: 12, bottom: 24 };

interface Props {
  view: SearchView;
  chosen: number | null;
  /** Paths of the two settings; those that matter most if left out. */
  across: string | null;
  up: string | null;
  show: (axis: "across" | "up", path: string) => void;
  choose: (set: number) => void;
}

/** The sets over any two settings: filled where every promise is kept, the darker the cheaper. */
export function MapChart({ view, chosen, across, up, show, choose }: Props) {
  const { points, space } = view;
  const ranked = [
    ...[...view.matters].sort((one, other) => other.on_short + other.on_cost - one.on_short - one.on_cost),
    ...space,
  ].map((one) => one.path);
  const known = (path: string | null) => space.find((one) => one.path === path);
  const x = known(across) ?? known(ranked.find((path) => path !== up) ?? null);
  const y = known(up) ?? known(ranked.find((path) => path !== x?.path) ?? null);
  if (!x || !y) return null;
  const costs = points.cost.map((one) => one ?? 0);
  const [cheapest, dearest] = [Math.min(...costs), Math.max(...costs)];
  const within = (value: number, axis: typeof x) => (value - axis.low) / (axis.high - axis.low || 1);
  const at = (k: number) => ({
    cx: EDGE.left + within(points.values[x.path]?.[k] ?? 0, x) * (WIDTH - EDGE.left - EDGE.right),
    cy: HEIGHT - EDGE.bottom - within(points.values[y.path]?.[k] ?? 0, y) * (HEIGHT - EDGE.top - EDGE.bottom),
  });
  const place = points.number.indexOf(chosen ?? -1);
  const choice = (axis: "across" | "up", label: string, path: string) => (
    <select aria-label={label} value={path} onChange={(event) => show(axis, event.target.value)}>
      {space.map((one) => (
        <option key={one.path} value={one.path}>
          {one.name}
        </option>
      ))}
    </select>
  );
  return (
    <section aria-label="Map" className={its.map}>
      <p>
        {choice("up", "Up", y.path)} over {choice("across", "Across", x.path)}{" "}
        <span className="quiet">the darker the cheaper;</span> <span className={its.keyKept}>keeps every promise</span>{" "}
        <span className={its.keyBroken}>breaks one</span>
      </p>
      <svg
        className={its.points}
        viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
        role="img"
        aria-label={`${points.number.length} sets: ${y.name} over ${x.name}`}
      >
        <path
          d={`M${EDGE.left},${EDGE.top}V${HEIGHT - EDGE.bottom}H${WIDTH - EDGE.right}`}
          className={its.gridline}
          fill="none"
        />
        <text x={EDGE.left - 8} y={EDGE.top + 8} textAnchor="end">
          {y.high_text}
        </text>
        <text x={EDGE.left - 8} y={HEIGHT - EDGE.bottom} textAnchor="end">
          {y.low_text}
        </text>
        <text x={EDGE.left} y={HEIGHT - 6}>
          {x.low_text}
        </text>
        <text x={WIDTH - EDGE.right} y={HEIGHT - 6} textAnchor="end">
          {x.high_text}
        </text>
        {points.number.map((number, k) => (
          // biome-ignore lint/a11y/noStaticElementInteractions: the front is walked by its buttons; a point is a shortcut to one
          <circle
            key={number}
            {...at(k)}
            r={4}
            className={points.kept[k] ? its.kept : its.broken}
            opacity={1 - 0.75 * (((costs[k] ?? 0) - cheapest) / (dearest - cheapest || 1))}
            onClick={() => choose(number)}
          >
            <title>{`Set ${number}: ${view.currency} ${points.cost[k]}, short ${points.short[k]} min`}</title>
          </circle>
        ))}
        {place >= 0 && <circle {...at(place)} r="8" className={its.chosenPoint} />}
      </svg>
    </section>
  );
}
