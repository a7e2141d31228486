import { useMemo } from "react";
import type { Band, Ghost, MetricStripData, Numbers, Picture } from "../../../shared/api/client";
import { band, DOTTED, line, points, roundTop, seedBand, useChart } from "../../../shared/chart/chart";
import { thin, useInks } from "../../../shared/chart/ink";
import { Strip, type StripFrame, scaleTo } from "../../../shared/chart/Strip";
import type { Handling } from "../../../shared/gesture/handling";
import type { StripKind } from "./kinds";
import { ThresholdLine } from "./ThresholdLine";

interface Props {
  strip: MetricStripData;
  picture: Picture;
  ghost: Ghost | null;
  /** Lowest and highest over many seeds. */
  band: Band | null;
  zone: string;
  frame: StripFrame;
  handling: Handling;
  drop: (() => void) | undefined;
}

/** A metric from its lowest to its highest in each bucket, with the thresholds of its policies as lines to move. */
export function MetricStrip({ strip, picture, ghost, band: seeds, zone, frame, handling, drop }: Props) {
  const inks = useInks();
  const { times, begin, end } = picture;
  const top = roundTop(strip.top);
  const { bend } = strip;
  const series = useMemo(() => {
    const bent = (values: Numbers): Numbers =>
      bend === 1 ? values : values.map((value) => (value === null ? null : top * (Math.max(0, value) / top) ** bend));
    const [lows, highs] = [bent(strip.low), bent(strip.high)];
    const low = points(times, lows, end);
    const distance = points(
      times,
      highs.map((high, k) => (high === null ? null : high - (lows[k] ?? 0))),
      end,
    );
    const shadow = ghost?.metrics[strip.metric];
    return [
      ...seedBand(seeds, "cpu", end, thin(inks.ink, 0.16)),
      band(low, distance, thin(inks.ink, 0.2)),
      ...(ghost && shadow
        ? [line(points(ghost.times, bent(shadow), end), inks.quiet, { width: 1.2, dash: DOTTED })]
        : []),
      line(points(times, bent(strip.mean), end), inks.ink, { width: 1.2 }),
    ];
  }, [strip, times, end, ghost, seeds, inks, top, bend]);
  const chart = useChart(series, begin, end, top);
  const shifts = apart(strip.thresholds.map((threshold) => (threshold.shown / top) ** bend));
  return (
    <Strip
      name={strip.label}
      title={strip.label}
      says={strip.summary}
      frame={frame}
      drop={drop}
      weight={1.25}
      chart={chart}
      scale={bend === 1 ? scaleTo(top, ` ${strip.unit}`) : bentScale(top, bend, ` ${strip.unit}`)}
      times={times}
      zone={zone}
      columns={[
        { title: `Lowest, ${strip.unit}`, values: strip.low, fold: "lowest" },
        { title: `Mean, ${strip.unit}`, values: strip.mean, fold: "mean" },
        { title: `Highest, ${strip.unit}`, values: strip.high, fold: "highest" },
      ]}
    >
      {strip.thresholds.map((threshold, k) => (
        <ThresholdLine
          key={threshold.path}
          threshold={threshold}
          scale={strip.scale}
          top={top}
          bend={bend}
          unit={strip.unit}
          shift={shifts[k] ?? 0}
          handling={handling}
        />
      ))}
    </Strip>
  );
}

/** Marks of a bent scale: its end, and tenths of it as long as they have room. */
function bentScale(top: number, bend: number, unit: string): { at: number; text: string }[] {
  const values = [top, top / 10, top / 100].filter((value, k) => k === 0 || (value / top) ** bend > 0.22);
  return [
    { at: 0, text: "0" },
    ...values.reverse().map((value) => ({ at: (value / top) ** bend, text: `${+value.toPrecision(2)}${unit}` })),
  ];
}

const CHIP_SHARE = 0.19;
const PLOT_PIXELS = 90;

/** How far each chip moves down (px) so that chips of near levels, given as shares of the strip, do not overlap. */
function apart(places: number[]): number[] {
  const shifts = places.map(() => 0);
  const order = places.map((_, k) => k).sort((a, b) => (places[b] ?? 0) - (places[a] ?? 0));
  for (let n = 1; n < order.length; n++) {
    const [above, here] = [order[n - 1] ?? 0, order[n] ?? 0];
    const gap = (places[above] ?? 0) - (shifts[above] ?? 0) / PLOT_PIXELS - (places[here] ?? 0);
    if (gap < CHIP_SHARE) shifts[here] = Math.round((CHIP_SHARE - gap) * PLOT_PIXELS);
  }
  return shifts;
}

export const metrics: StripKind = {
  names: (picture) => picture.metrics.map((strip) => strip.metric),
  draw: (name, { picture, zone, ghost, band: seeds, handling, besides, setBesides }, frame) => {
    const strip = picture.metrics.find((one) => one.metric === name);
    const drop = besides.includes(name) ? () => setBesides(besides.filter((one) => one !== name)) : undefined;
    return (
      strip && (
        <MetricStrip
          {...{ strip, picture, zone, ghost, handling, frame, drop }}
          key={name}
          band={name === "cpu" ? seeds : null}
        />
      )
    );
  },
};
