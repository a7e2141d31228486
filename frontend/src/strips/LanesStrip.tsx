import { useMemo } from "react";
import type { Picture } from "../api/client";
import { type Box, boxes, hatch, useChart } from "./chart";
import { thin, useInks } from "./ink";
import { Strip, type StripFrame } from "./Strip";

/** A line for each instance from its request to its end. */
export function LanesStrip({ picture, zone, frame }: { picture: Picture; zone: string; frame: StripFrame }) {
  const inks = useInks();
  const { lanes, begin, end, times } = picture;
  const rows = Math.max(1, ...lanes.map((lane) => lane.row + 1));
  const series = useMemo(() => {
    const states: Record<"booting" | "warming" | "serving" | "draining", Box[]> = {
      booting: [],
      warming: [],
      serving: [],
      draining: [],
    };
    for (const lane of lanes) {
      const y = rows - lane.row - 1;
      const gone = lane.gone ?? end;
      const drains = lane.drains ?? gone;
      const stretch = (from: number, to: number, state: Box[]) => {
        const [first, last] = [Math.max(from, begin), Math.min(to, end)];
        if (last > first) state.push([first - begin, last - begin, y, y + 1]);
      };
      stretch(lane.requested, Math.min(lane.booted, gone), states.booting);
      stretch(lane.booted, Math.min(lane.serves, gone), states.warming);
      stretch(lane.serves, drains, states.serving);
      stretch(drains, gone, states.draining);
    }
    const inset = rows > 24 ? 0.2 : 0.8;
    return [
      boxes("serving", states.serving, thin(inks.verdigris, 0.72), begin, inset),
      boxes("booting", states.booting, inks.ochre, begin, inset),
      boxes("warming", states.warming, hatch(inks.ochre, 4), begin, inset),
      boxes("draining", states.draining, hatch(inks.lilac, 4), begin, inset),
    ];
  }, [lanes, rows, begin, end, inks]);
  const chart = useChart(series, begin, end, rows);
  const launched = lanes.filter((lane) => lane.requested > begin).length;
  const ended = lanes.filter((lane) => lane.gone !== null && lane.gone < end).length;
  return (
    <Strip
      name="Each instance"
      title="each instance"
      says={`${launched} requested and ${ended} gone in this span: booting and warming (ochre), serving, draining (hatched).`}
      frame={frame}
      weight={1.15}
      chart={chart}
      scale={[]}
      times={times}
      zone={zone}
      columns={[
        {
          title: "Instances there",
          values: times.map((time) => lanes.filter((l) => l.requested <= time && (l.gone ?? end) > time).length),
        },
      ]}
    />
  );
}
