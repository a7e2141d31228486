import { clsx } from "clsx";
import { useMemo } from "react";
import type { DemandView } from "../../shared/api/client";
import { band, DOTTED, line, type Mark, type Points, points, roundTop, sum, useChart } from "../../shared/chart/chart";
import { thin, useInks } from "../../shared/chart/ink";
import { scaleTo } from "../../shared/chart/Strip";
import { StripTable } from "../../shared/chart/StripTable";
import stripsSheet from "../../shared/chart/strips.module.css";
import { Dialog } from "../../shared/dialog/Dialog";
import { TimeAxis } from "../../shared/time/TimeAxis";
import its from "./library.module.css";

interface Props {
  view: DemandView;
  apart: string | null;
  table: boolean;
  close: () => void;
}

/** What arrives in all, stacked from its bases; dotted, the demand without one layer. */
export function DemandChart({ view, apart, table, close }: Props) {
  const inks = useInks();
  const { picture } = view;
  const { times, begin, end, mean, high, without, parts } = picture;
  const top = roundTop(1.03 * Math.max(picture.top, ...without.map((value) => value ?? 0), 1e-9));
  const series = useMemo(() => {
    const above = high.map((value, k) => (value ?? 0) - (mean[k] ?? 0));
    const fills = [0.1, 0.32, 0.2, 0.42];
    const marks: Mark[] = [];
    let floor: Points | undefined;
    parts.forEach((part, number) => {
      const own = points(times, part.mean, end);
      const upper: Points = floor ? sum(own, floor) : own;
      const fill = thin(inks.indigo, fills[number % fills.length] ?? 0.2);
      marks.push(line(upper, inks.indigo, { width: 0.6, fill, ...(floor && { floor }) }));
      floor = upper;
    });
    const whole = points(times, mean, end);
    marks.push(band(whole, points(times, above, end), thin(inks.indigo, 0.25)));
    marks.push(line(whole, inks.indigo, parts.length ? {} : { fill: thin(inks.indigo, 0.1) }));
    if (without.length) marks.push(line(points(times, without, end), inks.ink, { width: 1.3, dash: DOTTED }));
    return marks;
  }, [times, mean, high, without, parts, end, inks]);
  const chart = useChart(series, begin, end, top);
  const left = view.sentences.find((one) => one.key === apart);
  return (
    <div className={its.plotOfDemand}>
      <TimeAxis picture={picture} />
      <div className={stripsSheet.plot}>
        <div className={stripsSheet.chart} ref={chart} aria-hidden />
        {scaleTo(top, "/s").map(({ at, text }) => (
          <span
            key={at}
            className={clsx(stripsSheet.scale, at <= 0 && stripsSheet.first, at >= 1 && stripsSheet.last)}
            style={{ top: `${100 - at * 100}%` }}
          >
            {text}
          </span>
        ))}
        {left && without.length > 0 && (
          <span className={its.legend}>┄ without: {left.words.map((word) => word.text).join("")}</span>
        )}
      </div>
      <Dialog opened={table} close={close} title={`${view.name}, ${view.time_zone}`} size="xl">
        {table && (
          <StripTable
            times={times}
            zone={view.time_zone}
            columns={[
              { title: "Mean a second", values: mean, fold: "mean" },
              { title: "Highest a second", values: high, fold: "highest" },
            ]}
          />
        )}
      </Dialog>
    </div>
  );
}
