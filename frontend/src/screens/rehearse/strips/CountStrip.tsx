import { useMemo } from "react";
import type { Band, Ghost, Picture } from "../../../shared/api/client";
import {
  type Box,
  boxes,
  DOTTED,
  hatch,
  line,
  type Points,
  points,
  seedBand,
  sum,
  useChart,
} from "../../../shared/chart/chart";
import { thin, useInks } from "../../../shared/chart/ink";
import { Strip, type StripFrame } from "../../../shared/chart/Strip";
import stripsSheet from "../../../shared/chart/strips.module.css";
import { EntryBlocks } from "./CalendarWeek";
import { HandBlock } from "./HandBlock";
import type { Edits, StripKind } from "./kinds";

interface Props {
  picture: Picture;
  ghost: Ghost | null;
  /** Lowest and highest over many seeds. */
  band: Band | null;
  zone: string;
  frame: StripFrame;
  edits: Edits;
}

/** How many serve, apart from how many are desired, between minimum and maximum; waits are hatched. */
export function CountStrip({ picture, ghost, band: seeds, zone, frame, edits }: Props) {
  const inks = useInks();
  const { count, times, begin, end } = picture;
  const highest = useMemo(
    () => Math.max(1, ...count.desired.map((v) => v ?? 0), ...count.serving.map((v) => v ?? 0)),
    [count],
  );
  const near = count.maximum <= 1.6 * highest;
  const top = Math.ceil(1.2 * (near ? Math.max(count.maximum, highest) : highest)) + 1;
  const series = useMemo(
    () => [
      ...seedBand(seeds, "desired", end, thin(inks.ink, 0.16)),
      boxes(
        count.waits.begin.map(
          (since, i): Box => [since - begin, (count.waits.end[i] ?? since) - begin, 0.86 * top, top],
        ),
        hatch(inks.lilac, 6),
      ),
      boxes(
        count.asleep.begin.map((since, i): Box => [since - begin, (count.asleep.end[i] ?? since) - begin, 0, top]),
        hatch(inks.moss, 9),
      ),
      ...[count.floor, count.ceiling].map((ordered) =>
        line(points(times, ordered, end), inks.moss, { step: true, width: 2, dash: [2, 3] }),
      ),
      line(points(times, count.serving, end), inks.verdigris, {
        step: true,
        width: 2,
        fill: thin(inks.verdigris, 0.12),
      }),
      ...shades(count.versions.slice(0, -1).map((one) => points(times, one.serving, end))).map((upTo, k, all) =>
        line(upTo, inks.verdigris, {
          step: true,
          width: 0.8,
          fill: thin(inks.verdigris, 0.42 / (all.length - k)),
        }),
      ),
      ...(ghost
        ? [line(points(ghost.times, ghost.desired, end), inks.quiet, { step: true, width: 1.2, dash: DOTTED })]
        : []),
      line(points(times, count.desired, end), inks.ink, { step: true, width: 1.1, dash: [4, 2] }),
    ],
    [count, times, begin, end, top, ghost, seeds, inks],
  );
  const chart = useChart(series, begin, end, top);
  const limits = [
    { at: count.minimum, text: `min ${count.minimum}` },
    ...(near ? [{ at: count.maximum, text: `max ${count.maximum}` }] : []),
  ];
  const ticks = highest > 0.7 * top ? [0, Math.round(highest / 2), Math.round(highest)] : [0, Math.round(highest)];
  return (
    <Strip
      name={count.counted}
      title={
        <>
          <span style={{ color: "var(--verdigris)" }}>
            serving
            {count.versions.length > 1 &&
              ` (version ${count.versions.map((one) => one.version).join(", ")}: dark to light)`}
          </span>
          , desired
          <span style={{ color: "var(--lilac-text)" }}>, waits</span>
          {(count.floor.length > 0 || count.asleep.begin.length > 0) && (
            <span style={{ color: "var(--moss-text)" }}>, calendar</span>
          )}
        </>
      }
      says={`${count.summary}${near ? "" : ` The maximum of ${count.maximum} is far above.`}`}
      frame={frame}
      chart={chart}
      scale={ticks.map((tick) => ({ at: tick / top, text: String(tick) }))}
      times={times}
      zone={zone}
      columns={[
        { title: "Serving, mean", values: count.serving, fold: "mean" },
        { title: "Desired, mean", values: count.desired, fold: "mean" },
        ...count.versions.map((one) => ({
          title: `Version ${one.version}, mean`,
          values: one.serving,
          fold: "mean" as const,
        })),
        ...(count.floor.length ? [{ title: "Calendar, at least", values: count.floor, fold: "highest" as const }] : []),
        ...(count.ceiling.length
          ? [{ title: "Calendar, at most", values: count.ceiling, fold: "lowest" as const }]
          : []),
      ]}
    >
      {limits.map(({ at, text }) => (
        <div key={text} className={stripsSheet.limit} style={{ top: `${100 - (100 * at) / top}%` }}>
          <span>{text}</span>
        </div>
      ))}
      <div className={`${stripsSheet.blocks} ${stripsSheet.passing}`} data-axis>
        {picture.calendar.entries
          .filter((entry) => !entry.paused)
          .map((entry, line) => {
            const height = entry.level === null ? 1 : Math.min(0.97, entry.level / top);
            const place = entry.level === null ? 4 + 11 * (line % 3) : `calc(${100 - 100 * height}% - 4px)`;
            const style = { top: place, bottom: "auto", height: 9 };
            return <EntryBlocks key={entry.key} {...{ entry, style }} axis={picture} {...edits} />;
          })}
        {picture.calendar.hands.map((hand) => (
          <HandBlock key={hand.key} hand={hand} axis={picture} {...edits} />
        ))}
      </div>
    </Strip>
  );
}

/** Each line and those before it together, the last one first, so that what lies below is drawn over it. */
function shades(lines: Points[]): Points[] {
  return lines.map((_, k) => lines.slice(0, k + 1).reduce(sum)).reverse();
}

export const count: StripKind = {
  names: () => ["count"],
  draw: (name, { picture, zone, ghost, band, edits }, frame) => (
    <CountStrip {...{ picture, zone, ghost, band, edits, frame }} key={name} />
  ),
};
