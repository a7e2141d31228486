import { type KeyboardEvent, type PointerEvent, useRef, useState } from "react";
import type { Change, CurvePoint, LayerStrip } from "../../shared/api/client";
import { roundTop } from "../../shared/chart/chart";
import type { Handling } from "../../shared/gesture/handling";
import { clock, DAY, GRID, HEIGHT, HourLabels, HourLines, WIDTH } from "./DayHours";

interface Props {
  layer: LayerStrip;
  handling: Handling;
  edit: { preview: (changes: Change[]) => void; commit: (changes: Change[]) => void };
}

/** The shape of a day, drawn by dragging its points; a double click adds one, Delete takes one out. */
export function DayCurve({ layer, edit, handling }: Props) {
  const [moved, setMoved] = useState<(CurvePoint & { number: number }) | null>(null);
  const held = useRef<number | null>(null);
  const plot = useRef<HTMLDivElement>(null);
  const shown = layer.points.map((point, number) => (moved?.number === number ? moved : point));
  // The scale stays while a point is dragged, lest it run away from the pointer.
  const [top, setTop] = useState(() => roundTop(1.25 * layer.top));
  const fits = roundTop(1.25 * layer.top);
  if (held.current === null && moved === null && fits !== top) setTop(fits);

  const changesOf = (point: CurvePoint): Change[] => [
    { op: "set", path: `${point.path}.at`, value: clock(point.seconds) },
    { op: "set", path: `${point.path}.factor`, value: point.factor },
  ];
  const place = (number: number, seconds: number, factor: number) => {
    const point = layer.points[number];
    if (!point) return;
    const before = layer.points[number - 1]?.seconds ?? -GRID;
    const after = layer.points[number + 1]?.seconds ?? DAY;
    const at = Math.min(after - 60, Math.max(before + 60, Math.round(seconds / GRID) * GRID));
    const next = {
      ...point,
      number,
      seconds: Math.min(DAY - 60, Math.max(0, at)),
      factor: Math.max(0, +factor.toFixed(2)),
    };
    if (moved && next.seconds === moved.seconds && next.factor === moved.factor) return;
    setMoved(next);
    edit.preview(changesOf(next));
  };
  const finish = () => {
    if (moved) edit.commit(changesOf(moved));
    setMoved(null);
  };
  const at = (event: { clientX: number; clientY: number }) => {
    const box = plot.current?.getBoundingClientRect();
    if (!box) return { seconds: 0, factor: 0 };
    return {
      seconds: ((event.clientX - box.left) / box.width) * DAY,
      factor: (1 - (event.clientY - box.top) / box.height) * top,
    };
  };
  const down = (event: PointerEvent<HTMLElement>, number: number) => {
    event.preventDefault();
    event.currentTarget.focus();
    event.currentTarget.setPointerCapture(event.pointerId);
    held.current = number;
  };
  const drag = (event: PointerEvent<HTMLElement>) => {
    if (held.current === null) return;
    const to = at(event);
    place(held.current, to.seconds, to.factor);
  };
  const up = () => {
    held.current = null;
    finish();
  };
  const key = (event: KeyboardEvent, number: number) => {
    const point = shown[number];
    if (!point) return;
    const across = { ArrowLeft: -GRID, ArrowRight: GRID }[event.key];
    const along = { ArrowUp: 0.05, ArrowDown: -0.05 }[event.key];
    if (across !== undefined) place(number, point.seconds + across, point.factor);
    else if (along !== undefined) place(number, point.seconds, point.factor + along);
    else if (event.key === "Enter") finish();
    else if (event.key === "Escape" && moved) {
      setMoved(null);
      handling.putBack();
    } else if (event.key === "Delete" && shown.length > 1) {
      setMoved(null);
      edit.commit([{ op: "remove", path: point.path }]);
    } else return;
    event.preventDefault();
    event.stopPropagation();
  };
  const add = (event: { clientX: number; clientY: number }) => {
    const to = at(event);
    const taken = layer.points.map((point) => point.seconds);
    let seconds = Math.round(to.seconds / GRID) * GRID;
    while (taken.includes(seconds)) seconds += GRID;
    const value = { at: clock(seconds % DAY), factor: +to.factor.toFixed(2) };
    edit.commit([{ op: "add", path: `${layer.key}.points`, value }]);
  };
  const x = (seconds: number) => (WIDTH * seconds) / DAY;
  const y = (factor: number) => HEIGHT - (HEIGHT * factor) / top;
  const [first, last] = [shown[0], shown.at(-1)];
  // Round past midnight: the line leaves on the right where it comes in on the left.
  const over = first && last ? first.seconds + DAY - last.seconds : DAY;
  const midnight =
    first && last ? last.factor + ((first.factor - last.factor) * (DAY - last.seconds)) / Math.max(over, 1) : 0;
  const path = [[0, midnight], ...shown.map((p) => [p.seconds, p.factor]), [DAY, midnight]]
    .map(([seconds, factor], k) => `${k ? "L" : "M"}${x(seconds ?? 0).toFixed(1)},${y(factor ?? 0).toFixed(1)}`)
    .join("");
  return (
    <div className="plot day-curve">
      {/* biome-ignore lint/a11y/noStaticElementInteractions: points are added by key from the point before, too */}
      <div className="blocks" ref={plot} onDoubleClick={add}>
        <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} preserveAspectRatio="none" aria-hidden>
          <HourLines />
          <path d={`${path}L${WIDTH},${HEIGHT}L0,${HEIGHT}Z`} className="area" />
          <path d={path} className="curve" />
        </svg>
        {shown.map((point, number) => (
          <button
            // biome-ignore lint/suspicious/noArrayIndexKey: points keep their order
            key={number}
            type="button"
            className="curve-point"
            style={{
              left: `${(100 * point.seconds) / DAY}%`,
              top: `${100 - (100 * Math.min(point.factor, top)) / top}%`,
            }}
            aria-label={`At ${clock(point.seconds)}: ${+point.factor.toFixed(2)} times`}
            title="Drag it, or move it with the arrow keys; Delete takes it out"
            onPointerDown={(event) => down(event, number)}
            onPointerMove={drag}
            onPointerUp={up}
            onKeyDown={(event) => key(event, number)}
            onBlur={finish}
            onDoubleClick={(event) => event.stopPropagation()}
          />
        ))}
        {moved && (
          <span className="tip" style={{ left: `${(100 * moved.seconds) / DAY}%` }}>
            {clock(moved.seconds)}: {+moved.factor.toFixed(2)} times
          </span>
        )}
      </div>
      <HourLabels />
      <span className="scale first" style={{ top: "100%" }}>
        0
      </span>
      <span className="scale last" style={{ top: 0 }}>
        {top}×
      </span>
    </div>
  );
}
