import { type KeyboardEvent, type PointerEvent, useRef, useState } from "react";
import type { Threshold } from "../../../shared/api/client";
import type { Handling } from "../../../shared/gesture/handling";

interface Props {
  threshold: Threshold;
  scale: number;
  top: number;
  unit: string;
  shift: number;
  handling: Handling;
}

/** A threshold as a line on its metric: dragged up and down, or moved by the arrow keys. */
export function ThresholdLine({ threshold, scale, top, unit, shift, handling }: Props) {
  const [moved, setMoved] = useState<number | null>(null);
  const dragging = useRef(false);
  const step = threshold.step * scale;
  const shown = moved ?? threshold.shown;

  const to = (wanted: number) => {
    const next = +Math.min(top, Math.max(0, Math.round(wanted / step) * step)).toFixed(6);
    if (next === shown) return;
    setMoved(next);
    handling.preview(threshold.path, next / scale);
  };
  const finish = () => {
    if (moved !== null) handling.commit(threshold.path, moved / scale);
    setMoved(null);
  };
  const leave = () => {
    if (moved === null) return;
    setMoved(null);
    handling.putBack();
  };
  const down = (event: PointerEvent<HTMLDivElement>) => {
    event.preventDefault();
    event.currentTarget.focus();
    event.currentTarget.setPointerCapture(event.pointerId);
    dragging.current = true;
  };
  const move = (event: PointerEvent<HTMLDivElement>) => {
    const plot = event.currentTarget.parentElement?.getBoundingClientRect();
    if (!dragging.current || !plot) return;
    to((1 - (event.clientY - plot.top) / plot.height) * top);
  };
  const up = () => {
    dragging.current = false;
    finish();
  };
  const key = (event: KeyboardEvent) => {
    const by = { ArrowUp: 1, ArrowRight: 1, ArrowDown: -1, ArrowLeft: -1, PageUp: 5, PageDown: -5 }[event.key];
    if (by !== undefined) to(shown + by * step * (event.shiftKey ? 5 : 1));
    else if (event.key === "Enter") finish();
    else if (event.key === "Escape" && moved !== null) leave();
    else return;
    event.preventDefault();
    event.stopPropagation();
  };
  return (
    <div
      className={`threshold tone-${threshold.tone}`}
      style={{ top: `${100 - (100 * shown) / top}%` }}
      role="slider"
      tabIndex={0}
      aria-label={`${threshold.policy}: ${threshold.text}`}
      aria-orientation="vertical"
      aria-valuenow={shown}
      aria-valuemin={0}
      aria-valuemax={top}
      title={`${threshold.text}: drag it, or move it with the arrow keys`}
      aria-valuetext={`${+shown.toFixed(3)} ${unit}`}
      onPointerDown={down}
      onPointerMove={move}
      onPointerUp={up}
      onKeyDown={key}
      onBlur={finish}
    >
      <span className="chip" style={{ marginTop: shift }}>
        {threshold.side} {+shown.toFixed(2)} {unit}
      </span>
    </div>
  );
}
