import { type KeyboardEvent, type PointerEvent, useRef } from "react";
import type { Picture } from "../../../shared/api/client";
import its from "../../../shared/chart/strips.module.css";
import { clockText } from "../../../shared/time/clock";

interface Props {
  picture: Picture;
  zone: string;
  look: (begin: number, end: number) => void;
}

/** The whole span in small, with the part that the strips show as a window to be moved. */
export function Minimap({ picture, zone, look }: Props) {
  const element = useRef<HTMLDivElement>(null);
  const grip = useRef<number | null>(null);
  const { whole, begin, end, minimap } = picture;
  const length = whole.end - whole.begin;
  const top = Math.max(1, ...minimap.map((value) => value ?? 0));
  const outline = minimap
    .map((value, k) => `${k === 0 ? "M" : "L"}${k},${(30 - (26 * (value ?? 0)) / top).toFixed(1)}`)
    .join("");
  const timeAt = (clientX: number) => {
    const box = element.current?.getBoundingClientRect();
    return box ? whole.begin + ((clientX - box.left) / box.width) * length : whole.begin;
  };
  const show = (from: number) => {
    const first = Math.min(Math.max(from, whole.begin), whole.end - (end - begin));
    look(first, first + (end - begin));
  };
  const down = (event: PointerEvent<HTMLDivElement>) => {
    event.currentTarget.setPointerCapture(event.pointerId);
    const time = timeAt(event.clientX);
    grip.current = time >= begin && time <= end ? time - begin : (end - begin) / 2;
    show(time - grip.current);
  };
  const move = (event: PointerEvent) => {
    if (grip.current !== null) show(timeAt(event.clientX) - grip.current);
  };
  const key = (event: KeyboardEvent) => {
    const by = { ArrowLeft: -0.2, ArrowRight: 0.2 }[event.key];
    if (by !== undefined) show(begin + by * (end - begin));
    else if (event.key === "Home") look(whole.begin, whole.end);
    else return;
    event.preventDefault();
    event.stopPropagation();
  };
  return (
    <div
      className={its.minimap}
      ref={element}
      role="slider"
      tabIndex={0}
      aria-label="Part of the whole span that is shown"
      aria-valuemin={whole.begin}
      aria-valuemax={whole.end}
      aria-valuenow={begin}
      aria-valuetext={`${clockText(begin, zone)} to ${clockText(end, zone)}`}
      onPointerDown={down}
      onPointerMove={move}
      onPointerUp={() => {
        grip.current = null;
      }}
      onKeyDown={key}
    >
      <svg viewBox={`0 0 ${minimap.length - 1} 34`} preserveAspectRatio="none" aria-hidden>
        <path d={outline} fill="none" stroke="var(--indigo)" strokeWidth="1" vectorEffect="non-scaling-stroke" />
      </svg>
      <div
        className={its.window}
        style={{
          left: `${(100 * (begin - whole.begin)) / length}%`,
          width: `${(100 * (end - begin)) / length}%`,
        }}
      />
    </div>
  );
}
