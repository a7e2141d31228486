import type { Numbers } from "../api/client";

const HEIGHT = 76;

function path(values: Numbers, top: number): string {
  return values
    .map((value, k) => `${k === 0 ? "M" : "L"}${k},${(HEIGHT - ((value ?? 0) / top) * (HEIGHT - 4)).toFixed(1)}`)
    .join("");
}

/** A group's week as one small drawing: demand as a line before the area of its capacity. */
export function Outline({ demand, capacity, label }: { demand: Numbers; capacity: Numbers; label: string }) {
  const top = Math.max(1, ...demand.map((v) => v ?? 0), ...capacity.map((v) => v ?? 0));
  const last = demand.length - 1;
  return (
    <svg viewBox={`0 0 ${last} ${HEIGHT}`} preserveAspectRatio="none" role="img" aria-label={label}>
      {capacity.length > 0 && (
        <path d={`${path(capacity, top)}L${last},${HEIGHT}L0,${HEIGHT}Z`} fill="var(--verdigris)" opacity="0.22" />
      )}
      <path
        d={path(demand, top)}
        fill="none"
        stroke="var(--indigo)"
        strokeWidth="1.4"
        vectorEffect="non-scaling-stroke"
      />
      <path d={`M0,${HEIGHT - 0.5}H${last}`} stroke="var(--hairline)" vectorEffect="non-scaling-stroke" />
    </svg>
  );
}
