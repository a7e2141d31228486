import { clsx } from "clsx";
import { type ReactNode, useMemo } from "react";
import type { Change, DemandPicture, LayerStrip } from "../../shared/api/client";
import { band, line, points, roundTop, useChart } from "../../shared/chart/chart";
import { thin, useInks } from "../../shared/chart/ink";
import { scaleTo } from "../../shared/chart/Strip";
import stripsSheet from "../../shared/chart/strips.module.css";
import type { Handling } from "../../shared/gesture/handling";
import { BurstDay } from "./BurstDay";
import { DayCurve } from "./DayCurve";
import its from "./library.module.css";
import { WeekdayBars } from "./WeekdayBars";

interface Props {
  picture: DemandPicture;
  layer: LayerStrip | undefined;
  kind: string;
  handling: Handling;
  edit: { preview: (changes: Change[]) => void; commit: (changes: Change[]) => void; keepTried: () => void };
  children: ReactNode;
}

/** A layer by itself: its course on the axis of the demand, or where it is drawn by hand, the day or the week it repeats. */
export function LayerChart({ picture, layer, kind, handling, edit, children }: Props) {
  if (layer && kind === "daily") return <DayCurve layer={layer} handling={handling} edit={edit} />;
  if (layer && kind === "weekdays") return <WeekdayBars layer={layer} handling={handling} />;
  if (layer && kind === "bursts")
    return <BurstDay layer={layer} edit={edit} keep={edit.keepTried} putBack={handling.putBack} />;
  return (
    <div className={clsx(stripsSheet.plot, its.plot, !layer && its.bare)}>
      {layer && <Course picture={picture} layer={layer} />}
      <div className={stripsSheet.blocks} data-axis>
        {children}
      </div>
    </div>
  );
}

function Course({ picture, layer }: { picture: DemandPicture; layer: LayerStrip }) {
  const inks = useInks();
  const { times, begin, end } = picture;
  const top = roundTop(1.05 * layer.top);
  const series = useMemo(() => {
    const spread = layer.high.map((value, k) => (value ?? 0) - (layer.low[k] ?? 0));
    return [
      band(points(times, layer.low, end), points(times, spread, end), thin(inks.indigo, 0.3)),
      line(points(times, layer.mean, end), inks.indigo, { fill: thin(inks.indigo, 0.08) }),
    ];
  }, [times, layer, end, inks]);
  const chart = useChart(series, begin, end, top);
  return (
    <>
      <div className={stripsSheet.chart} ref={chart} aria-hidden />
      {scaleTo(top, layer.unit === "/s" ? "/s" : "×")
        .filter(({ at }) => at !== 0.5)
        .map(({ at, text }) => (
          <span
            key={at}
            className={clsx(stripsSheet.scale, at <= 0 ? stripsSheet.first : stripsSheet.last)}
            style={{ top: `${100 - at * 100}%` }}
          >
            {text}
          </span>
        ))}
    </>
  );
}
