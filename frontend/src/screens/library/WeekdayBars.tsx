import { type KeyboardEvent, type PointerEvent, useRef, useState } from "react";
import type { LayerStrip } from "../../shared/api/client";
import { roundTop } from "../../shared/chart/chart";
import type { Handling } from "../../shared/gesture/handling";

/** A factor for each day of the week, as bars whose tops are dragged or moved by the arrow keys. */
export function WeekdayBars({ layer, handling }: { layer: LayerStrip; handling: Handling }) {
  const [moved, setMoved] = useState<{ path: string; factor: number } | null>(null);
  const held = useRef(false);
  const highest = Math.max(...layer.points.map((point) => point.factor), 0.5);
  const [top, setTop] = useState(() => roundTop(1.3 * highest));
  if (!held.current && moved === null && roundTop(1.3 * highest) !== top) setTop(roundTop(1.3 * highest));
  const to = (path: string, wanted: number) => {
    const factor = Math.max(0, +(Math.round(wanted / 0.02) * 0.02).toFixed(2));
    if (moved?.path === path && moved.factor === factor) return;
    setMoved({ path, factor });
    handling.preview(path, factor);
  };
  const finish = () => {
    if (moved) handling.commit(moved.path, moved.factor);
    setMoved(null);
  };
  return (
    <div className="plot weekday-bars">
      {layer.points.map((point) => {
        const factor = moved?.path === point.path ? moved.factor : point.factor;
        const drag = (event: PointerEvent<HTMLElement>) => {
          const box = event.currentTarget.getBoundingClientRect();
          if (held.current) to(point.path, (1 - (event.clientY - box.top) / box.height) * top);
        };
        const key = (event: KeyboardEvent) => {
          const by = { ArrowUp: 0.02, ArrowDown: -0.02, PageUp: 0.2, PageDown: -0.2 }[event.key];
          if (by !== undefined) to(point.path, factor + by);
          else if (event.key === "Enter") finish();
          else if (event.key === "Escape" && moved) {
            setMoved(null);
            handling.putBack();
          } else return;
          event.preventDefault();
          event.stopPropagation();
        };
        return (
          <div
            key={point.path}
            className="weekday"
            role="slider"
            tabIndex={0}
            aria-label={point.at}
            aria-orientation="vertical"
            aria-valuemin={0}
            aria-valuemax={top}
            aria-valuenow={factor}
            aria-valuetext={`${factor} times`}
            onPointerDown={(event) => {
              event.preventDefault();
              event.currentTarget.focus();
              event.currentTarget.setPointerCapture(event.pointerId);
              held.current = true;
              drag(event);
            }}
            onPointerMove={drag}
            onPointerUp={() => {
              held.current = false;
              finish();
            }}
            onKeyDown={key}
            onBlur={finish}
          >
            <i style={{ height: `${(100 * Math.min(factor, top)) / top}%` }} />
            <span>
              {point.at.slice(0, 3)} {+factor.toFixed(2)}
            </span>
          </div>
        );
      })}
      <span className="scale last" style={{ top: 0 }}>
        {top}×
      </span>
    </div>
  );
}
