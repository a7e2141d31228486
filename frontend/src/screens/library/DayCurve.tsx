import { type KeyboardEvent, useRef, useState } from "react";
import type { Change, CurvePoint, LayerStrip } from "../../shared/api/client";
import { roundTop } from "../../shared/chart/chart";
import stripsSheet from "../../shared/chart/strips.module.css";
import type { Handling } from "../../shared/gesture/handling";
import { useDraft } from "../../shared/gesture/useDraft";
import { clock, DAY, GRID, HEIGHT, HourLabels, HourLines, WIDTH } from "./DayHours";
import its from "./library.module.css";

interface Props {
  layer: LayerStrip;
  handling: Handling;
  edit: { preview: (changes: Change[]) => void; commit: (changes: Change[]) => void };
}

type Placed = CurvePoint & { number: number };

/** The shape of a day, drawn by dragging its points; a double click adds one, Delete takes one out. */
export function DayCurve({ layer, edit, handling }: Props) {
  const plot = useRef<HTMLDivElement>(null);
  const fits = roundTop(1.25 * layer.top);
  const [top, setTop] = useState(fits);
  const at = (event: { clientX: number; clientY: number }) => {
    const box = plot.current?.getBoundingClientRect();
    if (!box) return { seconds: 0, factor: 0 };
    return {
      seconds: ((event.clientX - box.left) / box.width) * DAY,
      factor: (1 - (event.clientY - box.top) / box.height) * top,
    };
  };
  const placed = (number: number, seconds: number, factor: number): Placed | null => {
    const point = layer.points[number];
    if (!point) return null;
    const before = layer.points[number - 1]?.seconds ?? -GRID;
    const after = layer.points[number + 1]?.seconds ?? DAY;
    const between = Math.min(after - 60, Math.max(before + 60, Math.round(seconds / GRID) * GRID));
    return {
      ...point,
      number,
      seconds: Math.min(DAY - 60, Math.max(0, between)),
      factor: Math.max(0, +factor.toFixed(2)),
    };
  };
  const changesOf = (point: CurvePoint): Change[] => [
    { op: "set", path: `${point.path}.at`, value: clock(point.seconds) },
    { op: "set", path: `${point.path}.factor`, value: point.factor },
  ];
  const { draft, held, to, finish, drop, pointed, keyed } = useDraft<Placed, number>({
    drag: (event, number) => {
      const { seconds, factor } = at(event);
      return placed(number, seconds, factor);
    },
    same: (one, other) => one.number === other.number && one.seconds === other.seconds && one.factor === other.factor,
    preview: (point) => edit.preview(changesOf(point)),
    keep: (point) => edit.commit(changesOf(point)),
    putBack: handling.putBack,
  });
  // The scale stays while a point is dragged, lest it run away from the pointer.
  if (!held() && draft === null && fits !== top) setTop(fits);
  const shown = layer.points.map((point, number) => (draft?.number === number ? draft : point));
  const key = (event: KeyboardEvent, number: number) => {
    const point = shown[number];
    if (!point) return;
    const by = (seconds: number, factor: number) => () => {
      const next = placed(number, point.seconds + seconds, point.factor + factor);
      if (next) to(next);
    };
    keyed(event, {
      ArrowLeft: by(-GRID, 0),
      ArrowRight: by(GRID, 0),
      ArrowUp: by(0, 0.05),
      ArrowDown: by(0, -0.05),
      ...(shown.length > 1 && {
        Delete: () => {
          drop();
          edit.commit([{ op: "remove", path: point.path }]);
        },
      }),
    });
  };
  const add = (event: { clientX: number; clientY: number }) => {
    const where = at(event);
    const taken = layer.points.map((point) => point.seconds);
    let seconds = Math.round(where.seconds / GRID) * GRID;
    while (taken.includes(seconds)) seconds += GRID;
    const value = { at: clock(seconds % DAY), factor: +where.factor.toFixed(2) };
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
    <div className={`${stripsSheet.plot} ${its.plot} ${its.dayCurve}`}>
      {/* biome-ignore lint/a11y/noStaticElementInteractions: points are added by key from the point before, too */}
      <div className={stripsSheet.blocks} ref={plot} onDoubleClick={add}>
        <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} preserveAspectRatio="none" aria-hidden>
          <HourLines />
          <path d={`${path}L${WIDTH},${HEIGHT}L0,${HEIGHT}Z`} className={its.area} />
          <path d={path} className={its.curve} />
        </svg>
        {shown.map((point, number) => (
          <button
            // biome-ignore lint/suspicious/noArrayIndexKey: points keep their order
            key={number}
            type="button"
            className={its.curvePoint}
            style={{
              left: `${(100 * point.seconds) / DAY}%`,
              top: `${100 - (100 * Math.min(point.factor, top)) / top}%`,
            }}
            aria-label={`At ${clock(point.seconds)}: ${+point.factor.toFixed(2)} times`}
            title="Drag it, or move it with the arrow keys; Delete takes it out"
            {...pointed(() => number)}
            onKeyDown={(event) => key(event, number)}
            onBlur={finish}
            onDoubleClick={(event) => event.stopPropagation()}
          />
        ))}
        {draft && (
          <span className={its.tip} style={{ left: `${(100 * draft.seconds) / DAY}%` }}>
            {clock(draft.seconds)}: {+draft.factor.toFixed(2)} times
          </span>
        )}
      </div>
      <HourLabels />
      <span className={`${stripsSheet.scale} ${stripsSheet.first}`} style={{ top: "100%" }}>
        0
      </span>
      <span className={`${stripsSheet.scale} ${stripsSheet.last}`} style={{ top: 0 }}>
        {top}×
      </span>
    </div>
  );
}
