import { type PointerEvent, useEffect, useRef, useState } from "react";
import type { Picture } from "../../../shared/api/client";
import its from "../../../shared/chart/strips.module.css";
import { clockText } from "../../../shared/time/clock";

interface Props {
  picture: Picture;
  zone: string;
  at: number | null;
  choose: (at: number) => void;
  look: (begin: number, end: number) => void;
}

const CLICK_PIXELS = 4;

/** What lies over all strips: the grid of the axis, the line under the pointer, zooming by wheel and drag. */
export function Touch({ picture, zone, at, choose, look }: Props) {
  const element = useRef<HTMLDivElement>(null);
  const [pointer, setPointer] = useState<number | null>(null);
  const [from, setFrom] = useState<number | null>(null);
  const { begin, end } = picture;
  const place = (time: number) => `${(100 * (time - begin)) / (end - begin)}%`;
  const timeAt = (clientX: number) => {
    const box = element.current?.getBoundingClientRect();
    if (!box) return begin;
    return begin + Math.min(1, Math.max(0, (clientX - box.left) / box.width)) * (end - begin);
  };

  useEffect(() => {
    const layer = element.current;
    if (!layer) return;
    const wheel = (event: WheelEvent) => {
      event.preventDefault();
      const box = layer.getBoundingClientRect();
      const share = (event.clientX - box.left) / box.width;
      const length = end - begin;
      if (event.shiftKey || Math.abs(event.deltaX) > Math.abs(event.deltaY)) {
        const by = (length * (event.deltaX + event.deltaY)) / 1500;
        look(begin + by, end + by);
      } else {
        const next = length * Math.exp(event.deltaY / 500);
        const pivot = begin + share * length;
        look(pivot - share * next, pivot + (1 - share) * next);
      }
    };
    layer.addEventListener("wheel", wheel, { passive: false });
    return () => layer.removeEventListener("wheel", wheel);
  }, [begin, end, look]);

  const down = (event: PointerEvent<HTMLDivElement>) => {
    if (event.button !== 0) return;
    event.currentTarget.setPointerCapture(event.pointerId);
    setFrom(timeAt(event.clientX));
  };
  const move = (event: PointerEvent) => setPointer(timeAt(event.clientX));
  const up = (event: PointerEvent) => {
    const to = timeAt(event.clientX);
    const width = element.current?.clientWidth ?? 1;
    if (from === null) return;
    if ((Math.abs(to - from) / (end - begin)) * width < CLICK_PIXELS) choose(to);
    else look(Math.min(from, to), Math.max(from, to));
    setFrom(null);
  };
  const dragged = from !== null && pointer !== null && Math.abs(pointer - from) > (end - begin) / 200;
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: the strips around it take the keys for the same acts
    <div
      className={its.touch}
      ref={element}
      onPointerDown={down}
      onPointerMove={move}
      onPointerUp={up}
      onPointerLeave={() => setPointer(null)}
      onDoubleClick={() => look(picture.whole.begin, picture.whole.end)}
    >
      {picture.axis.map((mark) => (
        <div
          key={mark.at}
          className={mark.day ? `${its.grid} ${its.day}` : its.grid}
          style={{ left: place(mark.at) }}
        />
      ))}
      {dragged && from !== null && pointer !== null && (
        <div
          className={its.chosen}
          style={{
            left: place(Math.min(from, pointer)),
            width: `${(100 * Math.abs(pointer - from)) / (end - begin)}%`,
          }}
        />
      )}
      {pointer !== null && (
        <div className={its.cross} style={{ left: place(pointer) }}>
          <b>{clockText(pointer, zone)}</b>
        </div>
      )}
      {at !== null && at >= begin && at <= end && <div className={its.here} style={{ left: place(at) }} />}
    </div>
  );
}
