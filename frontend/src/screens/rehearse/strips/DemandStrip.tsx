import { useMemo } from "react";
import type { Band, Ghost, Picture } from "../../../shared/api/client";
import {
  band,
  DASHED,
  DOTTED,
  hatch,
  line,
  type Mark,
  points,
  roundTop,
  seedBand,
  useChart,
} from "../../../shared/chart/chart";
import { type Inks, thin, useInks } from "../../../shared/chart/ink";
import { Strip, type StripFrame, scaleTo } from "../../../shared/chart/Strip";
import type { StripKind } from "./kinds";

interface Props {
  picture: Picture;
  ghost: Ghost | null;
  /** Lowest and highest over many seeds. */
  band: Band | null;
  zone: string;
  frame: StripFrame;
}

/** Demand against capacity; what finds no capacity is hatched. */
export function DemandStrip({ picture, ghost, band: seeds, zone, frame }: Props) {
  const inks = useInks();
  const { demand, times, begin, end } = picture;
  const top = useMemo(
    () =>
      roundTop(
        1.04 * Math.max(...demand.demand_high.map((v) => v ?? 0), Math.max(...demand.capacity.map((v) => v ?? 0))),
      ),
    [demand],
  );
  const series = useMemo(() => {
    const capacity = points(times, demand.capacity, end);
    const mean = points(times, demand.demand, end);
    const above = points(
      times,
      demand.demand_high.map((high, k) => (high ?? 0) - (demand.demand[k] ?? 0)),
      end,
    );
    return [
      ...seedBand(seeds, "demand", end, thin(inks.indigo, 0.16)),
      ...seedBand(seeds, "capacity", end, thin(inks.verdigris, 0.16)),
      line(capacity, inks.verdigris, { step: true, fill: thin(inks.verdigris, 0.17) }),
      ...(ghost
        ? [line(points(ghost.times, ghost.capacity, end), inks.quiet, { step: true, width: 1.2, dash: DOTTED })]
        : []),
      band(capacity, points(times, demand.shortfall, end), hatch(inks.madder), true),
      band(mean, above, thin(inks.indigo, 0.25)),
      line(mean, inks.indigo),
      ...(demand.expected.length > 0 ? expectedMarks(times, demand, end, inks) : []),
    ];
  }, [demand, times, end, ghost, seeds, inks]);
  const chart = useChart(series, begin, end, top);
  return (
    <Strip
      name="Demand and capacity"
      title={
        <>
          <span style={{ color: "var(--indigo)" }}>demand</span> and{" "}
          <span style={{ color: "var(--verdigris)" }}>capacity</span>
          {demand.expected.length > 0 && (
            <>
              , <span style={{ textDecoration: "underline dashed 1.5px var(--lilac)" }}>expected</span>
            </>
          )}
        </>
      }
      says={`${demand.unit}. ${demand.summary}`}
      frame={frame}
      weight={1.25}
      chart={chart}
      scale={scaleTo(top)}
      times={times}
      zone={zone}
      columns={[
        { title: "Demand, mean", values: demand.demand, fold: "mean" },
        { title: "Demand, highest", values: demand.demand_high, fold: "highest" },
        { title: "Capacity, mean", values: demand.capacity, fold: "mean" },
        { title: "Shortfall, highest", values: demand.shortfall, fold: "highest" },
        ...(demand.expected.length > 0
          ? [{ title: "Expected, mean", values: demand.expected, fold: "mean" as const }]
          : []),
      ]}
    />
  );
}

/** What was expected, between how far off it usually is. */
function expectedMarks(times: number[], demand: Picture["demand"], end: number, inks: Inks): Mark[] {
  const low = demand.expected.map((value, k) => (value === null ? null : value - (demand.expected_off[k] ?? 0)));
  const twice = demand.expected_off.map((off) => (off === null ? null : 2 * off));
  return [
    band(points(times, low, end), points(times, twice, end), thin(inks.lilac, 0.22)),
    line(points(times, demand.expected, end), inks.lilac, { width: 1.3, dash: DASHED }),
  ];
}

export const demand: StripKind = {
  names: () => ["demand"],
  draw: (name, { picture, zone, ghost, band: seeds }, frame) => (
    <DemandStrip {...{ picture, zone, ghost, frame }} key={name} band={seeds} />
  ),
};
