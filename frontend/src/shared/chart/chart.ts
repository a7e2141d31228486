import { type RefObject, useLayoutEffect, useRef } from "react";
import type { Band, Numbers } from "../api/client";

export type Fill = string | CanvasPattern;

/** Something to be drawn on a chart, given its pen and where values lie on it. */
export type Mark = (pen: CanvasRenderingContext2D, at: Frame) => void;

/** Where values lie on a chart, in pixels. */
interface Frame {
  x: (time: number) => number;
  y: (value: number) => number;
  /** Pixels of a ms, and of one on the scale. */
  perX: number;
  perY: number;
}

/** A chart that fills its element: x is time in ms from `begin` to `end`, y runs from 0 to `top`, without axes. */
export function useChart(marks: Mark[], begin: number, end: number, top: number): RefObject<HTMLDivElement | null> {
  const element = useRef<HTMLDivElement>(null);
  const draw = useRef<() => void>(() => undefined);
  useLayoutEffect(() => {
    const holder = element.current;
    if (!holder) return;
    const canvas = document.createElement("canvas");
    holder.append(canvas);
    const watcher = new ResizeObserver(() => draw.current());
    watcher.observe(holder);
    return () => {
      watcher.disconnect();
      canvas.remove();
    };
  }, []);
  useLayoutEffect(() => {
    draw.current = () => {
      const canvas = element.current?.querySelector("canvas");
      if (canvas) paint(canvas, marks, begin, end, top);
    };
    draw.current();
  }, [marks, begin, end, top]);
  return element;
}

function paint(canvas: HTMLCanvasElement, marks: Mark[], begin: number, end: number, top: number) {
  const { clientWidth: width, clientHeight: height } = canvas.parentElement ?? canvas;
  const pen = canvas.getContext("2d");
  if (!pen || width === 0 || height === 0) return;
  const dense = window.devicePixelRatio || 1;
  canvas.width = Math.round(width * dense);
  canvas.height = Math.round(height * dense);
  pen.setTransform(dense, 0, 0, dense, 0, 0);
  pen.lineJoin = "bevel";
  const [perX, perY] = [width / (end - begin), height / top];
  const frame = { x: (time: number) => (time - begin) * perX, y: (value: number) => height - value * perY, perX, perY };
  for (const mark of marks) {
    pen.save();
    mark(pen, frame);
    pen.restore();
  }
}

/** Points of a line as x and y in turn, from values in buckets; the last value reaches to the end of the span. */
export type Points = Float64Array;

export function points(times: number[], values: Numbers, end: number): Points {
  const pairs = new Float64Array(2 * times.length + 2);
  times.forEach((time, k) => {
    pairs[2 * k] = time;
    pairs[2 * k + 1] = values[k] ?? Number.NaN;
  });
  pairs[2 * times.length] = end;
  pairs[2 * times.length + 1] = pairs[2 * times.length - 1] ?? Number.NaN;
  return pairs;
}

interface Look {
  width?: number;
  dash?: number[];
  /** Values hold until the next point. */
  step?: boolean;
  /** The area below it, down to zero or to `floor`. */
  fill?: Fill;
  floor?: Points;
}

export const DOTTED = [1.5, 2.5];
export const DASHED = [5, 3];

export function line(data: Points, color: string, look: Look = {}): Mark {
  return (pen, at) => {
    if (look.fill) {
      pen.fillStyle = look.fill;
      for (const [from, to] of runs(data)) area(pen, at, data, look.floor ?? null, from, to, look.step ?? false);
    }
    pen.strokeStyle = color;
    pen.lineWidth = look.width ?? 1.5;
    pen.setLineDash(look.dash ?? []);
    pen.beginPath();
    for (const [from, to] of runs(data)) trace(pen, at, data, from, to, look.step ?? false, false);
    pen.stroke();
  };
}

/** The area between two lines, given as the lower one and the distance to the upper one. */
export function band(lower: Points, distance: Points, fill: Fill, step = false): Mark {
  return (pen, at) => {
    const upper = sum(lower, distance);
    pen.fillStyle = fill;
    for (const [from, to] of runs(upper)) area(pen, at, upper, lower, from, to, step);
  };
}

/** Points whose values are those of two lines together. */
export function sum(one: Points, other: Points): Points {
  return one.map((value, k) => (k % 2 ? value + (other[k] ?? 0) : value));
}

/** Stretches of points without a gap, as the first and the last. */
function runs(data: Points): [number, number][] {
  const found: [number, number][] = [];
  let from = -1;
  const number = data.length / 2;
  for (let k = 0; k <= number; k++) {
    const there = k < number && !Number.isNaN(data[2 * k + 1]);
    if (there && from < 0) from = k;
    if (!there && from >= 0) {
      found.push([from, k - 1]);
      from = -1;
    }
  }
  return found;
}

function area(
  pen: CanvasRenderingContext2D,
  at: Frame,
  upper: Points,
  lower: Points | null,
  from: number,
  to: number,
  step: boolean,
) {
  pen.beginPath();
  trace(pen, at, upper, from, to, step, false);
  if (lower) back(pen, at, lower, from, to, step);
  else {
    pen.lineTo(at.x(upper[2 * to] ?? 0), at.y(0));
    pen.lineTo(at.x(upper[2 * from] ?? 0), at.y(0));
  }
  pen.closePath();
  pen.fill();
}

function trace(
  pen: CanvasRenderingContext2D,
  at: Frame,
  data: Points,
  from: number,
  to: number,
  step: boolean,
  joined: boolean,
) {
  for (let k = from; k <= to; k++) {
    const [x, y] = [at.x(data[2 * k] ?? 0), at.y(data[2 * k + 1] ?? 0)];
    if (k === from && !joined) pen.moveTo(x, y);
    else {
      if (step && k > from) pen.lineTo(x, at.y(data[2 * k - 1] ?? 0));
      pen.lineTo(x, y);
    }
  }
}

/** The same line from its last point to its first. */
function back(pen: CanvasRenderingContext2D, at: Frame, data: Points, from: number, to: number, step: boolean) {
  for (let k = to; k >= from; k--) {
    const y = at.y(data[2 * k + 1] ?? 0);
    if (step && k < to) pen.lineTo(at.x(data[2 * k + 2] ?? 0), y);
    pen.lineTo(at.x(data[2 * k] ?? 0), y);
  }
}

/** How far a series reaches over many seeds; nothing where only one was played. */
export function seedBand(
  seeds: Band | null,
  series: "demand" | "capacity" | "desired" | "cpu",
  end: number,
  fill: Fill,
): Mark[] {
  if (!seeds) return [];
  const { low, high } = seeds[series];
  const distance = high.map((value, k) => (value ?? 0) - (low[k] ?? 0));
  return [band(points(seeds.times, low, end), points(seeds.times, distance, end), fill)];
}

/** A rectangle: x from and to, in ms from the chart's beginning, y from and to. */
export type Box = [number, number, number, number];

/** Many rectangles in one fill as one path, so that hundreds of them cost no more than a line. */
export function boxes(drawn: Box[], fill: Fill, inset = 0): Mark {
  return (pen, { y, perX, perY }) => {
    pen.fillStyle = fill;
    pen.beginPath();
    for (const [from, to, low, high] of drawn) {
      const height = Math.max(0.7, (high - low) * perY - 2 * inset);
      pen.rect(from * perX, y(high) + inset, Math.max(0.7, (to - from) * perX), height);
    }
    pen.fill();
  };
}

const patterns = new Map<string, Fill>();

/** Slanted lines of a colour, so that a meaning does not rest on colour alone. */
export function hatch(color: string, gap = 5): Fill {
  const key = `${color} ${gap}`;
  const known = patterns.get(key);
  if (known) return known;
  const tile = document.createElement("canvas");
  tile.width = gap;
  tile.height = gap;
  const pen = tile.getContext("2d");
  if (!pen) return color;
  pen.strokeStyle = color;
  pen.lineWidth = 1.1;
  for (const shift of [-gap, 0, gap]) {
    pen.moveTo(shift, gap);
    pen.lineTo(shift + gap, 0);
  }
  pen.stroke();
  const made = pen.createPattern(tile, "repeat") ?? color;
  patterns.set(key, made);
  return made;
}

/** The next round number at or above a value: 1, 1.5, 2, 3, 4, 5, 6 or 8 times a power of ten. */
export function roundTop(value: number): number {
  if (!(value > 0)) return 1;
  const power = 10 ** Math.floor(Math.log10(value));
  const step = [1, 1.5, 2, 3, 4, 5, 6, 8, 10].find((s) => s * power >= value * 0.9999) ?? 10;
  return step * power;
}
