import { Modal } from "@mantine/core";
import { useMemo } from "react";
import type { DemandView } from "../api/client";
import { band, line, points, roundTop, useChart } from "../strips/chart";
import { thin, useInks } from "../strips/ink";
import { scaleTo } from "../strips/Strip";
import { StripTable } from "../strips/StripTable";
import { TimeAxis } from "../strips/TimeAxis";

interface Props {
  view: DemandView;
  apart: string | null;
  table: boolean;
  close: () => void;
}

/** What arrives in all, stacked from its bases; dotted, the demand without one layer. */
export function DemandChart({ view, apart, table, close }: Props) {
  const inks = useInks();
  const { picture } = view;
  const { times, begin, end, mean, high, without, parts } = picture;
  const top = roundTop(1.03 * Math.max(picture.top, ...without.map((value) => value ?? 0), 1e-9));
  const series = useMemo(() => {
    const above = high.map((value, k) => (value ?? 0) - (mean[k] ?? 0));
    const fills = [0.1, 0.32, 0.2, 0.42];
    return [
      ...parts.map((part, number) =>
        line(part.key, points(times, part.mean, end), inks.indigo, {
          stack: "parts",
          lineStyle: { width: 0.6, color: inks.indigo },
          areaStyle: { color: thin(inks.indigo, fills[number % fills.length] ?? 0.2) },
        }),
      ),
      ...band("spread", points(times, mean, end), points(times, above, end), thin(inks.indigo, 0.25)),
      line(
        "demand",
        points(times, mean, end),
        inks.indigo,
        parts.length ? {} : { areaStyle: { color: thin(inks.indigo, 0.1) } },
      ),
      ...(without.length
        ? [
            line("without", points(times, without, end), inks.quiet, {
              lineStyle: { color: inks.ink, width: 1.3, type: "dotted" },
            }),
          ]
        : []),
    ];
  }, [times, mean, high, without, parts, end, inks]);
  const chart = useChart(series, begin, end, top);
  const left = view.sentences.find((one) => one.key === apart);
  return (
    <div className="plot-of-demand">
      <TimeAxis picture={picture} />
      <div className="plot">
        <div className="chart" ref={chart} aria-hidden />
        {scaleTo(top, "/s").map(({ at, text }) => (
          <span
            key={at}
            className={`scale${at <= 0 ? " first" : at >= 1 ? " last" : ""}`}
            style={{ top: `${100 - at * 100}%` }}
          >
            {text}
          </span>
        ))}
        {left && without.length > 0 && (
          <span className="legend">┄ without: {left.words.map((word) => word.text).join("")}</span>
        )}
      </div>
      <Modal opened={table} onClose={close} title={`${view.name}, ${view.time_zone}`} size="xl">
        {table && (
          <StripTable
            times={times}
            zone={view.time_zone}
            columns={[
              { title: "Mean a second", values: mean },
              { title: "Highest a second", values: high },
            ]}
          />
        )}
      </Modal>
    </div>
  );
}
