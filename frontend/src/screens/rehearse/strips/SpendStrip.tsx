import { useMemo } from "react";
import type { Picture } from "../../../shared/api/client";
import { type Box, boxes, line, points, roundTop, useChart } from "../../../shared/chart/chart";
import { thin, useInks } from "../../../shared/chart/ink";
import { Strip, type StripFrame, scaleTo } from "../../../shared/chart/Strip";
import its from "../../../shared/chart/strips.module.css";
import type { StripKind } from "./kinds";

/** Spend: a bar for the mean amount an hour, and a line for the sum so far, on its own scale. */
export function SpendStrip({ picture, zone, frame }: { picture: Picture; zone: string; frame: StripFrame }) {
  const inks = useInks();
  const { spend, times, begin, end } = picture;
  const top = roundTop(1.05 * Math.max(0.001, ...spend.bars.per_hour));
  const series = useMemo(() => {
    const { bars } = spend;
    const gap = (end - begin) * 0.0012;
    const total = Math.max(1e-9, spend.summed.at(-1) ?? 0);
    const first = spend.summed[0] ?? 0;
    const scaled = spend.summed.map((sum) => (((sum ?? 0) - first) / Math.max(1e-9, total - first)) * top * 0.94);
    return [
      boxes(
        bars.per_hour.map(
          (amount, k): Box => [(bars.begin[k] ?? 0) - begin, (bars.end[k] ?? 0) - gap - begin, 0, amount],
        ),
        thin(inks.ochre, 0.6),
      ),
      line(points(times, scaled, end), inks.ink, { width: 1.1 }),
    ];
  }, [spend, times, begin, end, top, inks]);
  const chart = useChart(series, begin, end, top);
  return (
    <Strip
      name="Spend"
      title={<span style={{ color: "var(--ochre-text)" }}>spend</span>}
      says={`an hour, and summed. ${spend.summary}`}
      frame={frame}
      weight={0.85}
      chart={chart}
      scale={scaleTo(top)}
      times={times}
      zone={zone}
      columns={[{ title: "Spent by then", values: spend.summed, fold: "last" }]}
    >
      <span className={its.beside} style={{ top: "6%" }}>
        {spend.total}
      </span>
    </Strip>
  );
}

export const spend: StripKind = {
  names: () => ["spend"],
  draw: (name, { picture, zone }, frame) => <SpendStrip {...{ picture, zone, frame }} key={name} />,
};
