import { useState } from "react";
import type { LayerStrip } from "../../shared/api/client";
import { roundTop } from "../../shared/chart/chart";
import stripsSheet from "../../shared/chart/strips.module.css";
import type { Handling } from "../../shared/gesture/handling";
import { useDraft } from "../../shared/gesture/useDraft";
import its from "./library.module.css";

interface Factor {
  path: string;
  factor: number;
}

/** A factor for each day of the week, as bars whose tops are dragged or moved by the arrow keys. */
export function WeekdayBars({ layer, handling }: { layer: LayerStrip; handling: Handling }) {
  const at = (path: string, wanted: number): Factor => ({
    path,
    factor: Math.max(0, +(Math.round(wanted / 0.02) * 0.02).toFixed(2)),
  });
  const { draft, held, to, finish, pointed, keyed } = useDraft<Factor, string>({
    drag: (event, path) => {
      const box = event.currentTarget.getBoundingClientRect();
      return at(path, (1 - (event.clientY - box.top) / box.height) * top);
    },
    same: (one, other) => one.path === other.path && one.factor === other.factor,
    preview: ({ path, factor }) => handling.preview(path, factor),
    keep: ({ path, factor }) => handling.commit(path, factor),
    putBack: handling.putBack,
  });
  const highest = Math.max(...layer.points.map((point) => point.factor), 0.5);
  const [top, setTop] = useState(() => roundTop(1.3 * highest));
  if (!held() && draft === null && roundTop(1.3 * highest) !== top) setTop(roundTop(1.3 * highest));
  return (
    <div className={`${stripsSheet.plot} ${its.plot} ${its.weekdayBars}`}>
      {layer.points.map((point) => {
        const factor = draft?.path === point.path ? draft.factor : point.factor;
        const by = (steps: number) => () => to(at(point.path, factor + steps * 0.02));
        return (
          <div
            key={point.path}
            className={its.weekday}
            role="slider"
            tabIndex={0}
            aria-label={point.at}
            aria-orientation="vertical"
            aria-valuemin={0}
            aria-valuemax={top}
            aria-valuenow={factor}
            aria-valuetext={`${factor} times`}
            {...pointed(() => point.path)}
            onKeyDown={(event) =>
              keyed(event, { ArrowUp: by(1), ArrowDown: by(-1), PageUp: by(10), PageDown: by(-10) })
            }
            onBlur={finish}
          >
            <i style={{ height: `${(100 * Math.min(factor, top)) / top}%` }} />
            <span>
              {point.at.slice(0, 3)} {+factor.toFixed(2)}
            </span>
          </div>
        );
      })}
      <span className={`${stripsSheet.scale} ${stripsSheet.last}`} style={{ top: 0 }}>
        {top}×
      </span>
    </div>
  );
}
