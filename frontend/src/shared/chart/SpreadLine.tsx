import type { Numbers } from "../api/client";
import its from "./spread-line.module.css";

interface Props {
  low: Numbers;
  high: Numbers;
  mean: Numbers;
  /** What the height stands for, and the height in pixels. */
  top: number;
  height: number;
  ink: "indigo" | "ochre";
  label: string;
  /** A level drawn across it. */
  level?: number;
}

/** A series in buckets: its spread in each as an area, so that no spike is lost, and its mean as a line. */
export function SpreadLine({ low, high, mean, top, height, ink, label, level }: Props) {
  const last = Math.max(1, mean.length - 1);
  const at = (value: number) => (height - (value / top) * (height - 3)).toFixed(1);
  const bar = (most: number | null, k: number) => {
    const least = low[k] ?? null;
    return most === null || least === null ? "" : `M${k},${at(least)}V${at(most)}`;
  };
  const step = (value: number | null, k: number) =>
    value === null ? "" : `${k === 0 || mean[k - 1] === null ? "M" : "L"}${k},${at(value)}`;
  return (
    <svg
      className={its.line}
      style={{ height, color: `var(--${ink})` }}
      viewBox={`0 0 ${last} ${height}`}
      preserveAspectRatio="none"
      role="img"
      aria-label={label}
    >
      <path d={high.map(bar).join("")} className={its.spread} vectorEffect="non-scaling-stroke" />
      <path d={mean.map(step).join("")} className={its.mean} vectorEffect="non-scaling-stroke" />
      <path d={`M0,${height - 0.5}H${last}`} className={its.ground} vectorEffect="non-scaling-stroke" />
      {level !== undefined && (
        <path d={`M0,${at(level)}H${last}`} className={its.level} vectorEffect="non-scaling-stroke" />
      )}
    </svg>
  );
}
