import { CustomChart, LineChart } from "echarts/charts";
import { GridComponent } from "echarts/components";
import { type EChartsCoreOption, type EChartsType, graphic, init, use } from "echarts/core";
import { CanvasRenderer } from "echarts/renderers";
import { type RefObject, useLayoutEffect, useRef } from "react";
import type { Band, Numbers } from "../api/client";

use([LineChart, CustomChart, GridComponent, CanvasRenderer]);

export type Series = Record<string, unknown>;

/** A chart that fills its element: x is time in ms from `begin` to `end`, y runs from 0 to `top`, without axes. */
export function useChart(series: Series[], begin: number, end: number, top: number): RefObject<HTMLDivElement | null> {
  const element = useRef<HTMLDivElement>(null);
  const chart = useRef<EChartsType>(null);
  useLayoutEffect(() => {
    if (!element.current) return;
    const made = init(element.current);
    chart.current = made;
    const watcher = new ResizeObserver(() => {
      made.resize({ animation: { duration: 0 } });
      made.getZr().flush();
    });
    watcher.observe(element.current);
    return () => {
      watcher.disconnect();
      made.dispose();
      chart.current = null;
    };
  }, []);
  useLayoutEffect(() => {
    const option: EChartsCoreOption = {
      animation: false,
      grid: { left: 0, right: 0, top: 0, bottom: 0 },
      xAxis: { type: "value", min: begin, max: end, show: false },
      yAxis: { type: "value", min: 0, max: top, show: false },
      series: series.map((one) => ({ silent: true, ...one })),
    };
    chart.current?.setOption(option, { replaceMerge: ["series"], silent: true });
    chart.current?.getZr().flush();
  }, [series, begin, end, top]);
  return element;
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

export function line(id: string, data: Points, color: string, more: Series = {}): Series {
  return {
    id,
    type: "line",
    dimensions: ["x", "y"],
    data,
    showSymbol: false,
    lineStyle: { color, width: 1.5 },
    itemStyle: { color },
    ...more,
  };
}

/** The area between two lines, given as the lower one and the distance to the upper one. */
export function band(id: string, lower: Points, distance: Points, fill: unknown, more: Series = {}): Series[] {
  const hidden = {
    type: "line",
    dimensions: ["x", "y"],
    showSymbol: false,
    lineStyle: { width: 0 },
    stack: id,
    ...more,
  };
  return [
    { ...hidden, id: `${id}-low`, data: lower },
    { ...hidden, id: `${id}-high`, data: distance, areaStyle: { color: fill, opacity: 1 } },
  ];
}

/** How far a series reaches over many seeds; nothing where only one was played. */
export function seedBand(
  id: string,
  seeds: Band | null,
  series: "demand" | "capacity" | "desired" | "cpu",
  end: number,
  fill: unknown,
): Series[] {
  if (!seeds) return [];
  const { low, high } = seeds[series];
  const distance = high.map((value, k) => (value ?? 0) - (low[k] ?? 0));
  return band(id, points(seeds.times, low, end), points(seeds.times, distance, end), fill);
}

/** A rectangle: x from and to, y from and to. */
export type Box = [number, number, number, number];

interface Drawn {
  boxes: Box[];
  left: number;
  bottom: number;
  perX: number;
  perY: number;
  inset: number;
}

/** Many rectangles as one shape, so that hundreds of them cost no more than a line. */
graphic.registerShape(
  "boxes",
  graphic.extendShape({
    shape: { boxes: [] as Box[], left: 0, bottom: 0, perX: 0, perY: 0, inset: 0 },
    buildPath(pen: CanvasRenderingContext2D, { boxes, left, bottom, perX, perY, inset }: Drawn) {
      for (const [from, to, low, high] of boxes) {
        const height = Math.max(0.7, (high - low) * perY - 2 * inset);
        pen.rect(left + from * perX, bottom - high * perY + inset, Math.max(0.7, (to - from) * perX), height);
      }
    },
  }),
);

/** Rectangles in one fill; x is counted from `begin`. */
export function boxes(id: string, drawn: Box[], fill: unknown, begin: number, inset = 0): Series {
  return {
    id,
    type: "custom",
    data: [[begin, 0]],
    clip: true,
    renderItem: (_: unknown, at: { coord: (point: [number, number]) => [number, number] }) => {
      const [left, bottom] = at.coord([begin, 0]);
      const [right, top] = at.coord([begin + 1e6, 1]);
      const shape: Drawn = { boxes: drawn, left, bottom, perX: (right - left) / 1e6, perY: bottom - top, inset };
      return { type: "boxes", shape, style: { fill } };
    },
  };
}

const patterns = new Map<string, unknown>();

/** Slanted lines of a colour, so that a meaning does not rest on colour alone. */
export function hatch(color: string, gap = 5): unknown {
  const key = `${color} ${gap}`;
  const known = patterns.get(key);
  if (known) return known;
  const tile = document.createElement("canvas");
  tile.width = gap;
  tile.height = gap;
  const pen = tile.getContext("2d");
  if (pen) {
    pen.strokeStyle = color;
    pen.lineWidth = 1.1;
    for (const shift of [-gap, 0, gap]) {
      pen.moveTo(shift, gap);
      pen.lineTo(shift + gap, 0);
    }
    pen.stroke();
  }
  const made = { image: tile, repeat: "repeat" };
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
