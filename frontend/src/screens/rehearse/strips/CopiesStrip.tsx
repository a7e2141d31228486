import { useMemo } from "react";
import type { Picture } from "../../../shared/api/client";
import { band, hatch, line, points, roundTop, sum, useChart } from "../../../shared/chart/chart";
import { guestInk, thin, useInks } from "../../../shared/chart/ink";
import { Strip, type StripFrame, scaleTo } from "../../../shared/chart/Strip";
import type { StripKind } from "./kinds";

interface Props {
  picture: Picture;
  copies: NonNullable<Picture["copies"]>;
  zone: string;
  frame: StripFrame;
}

/** The copies of all guests of a host, one upon the other, those without a place hatched on top. */
export function CopiesStrip({ picture, copies, zone, frame }: Props) {
  const inks = useInks();
  const { times, begin, end } = picture;
  const each = useMemo(
    () => [...copies.guests.map((one) => one.copies), copies.waiting].map((values) => points(times, values, end)),
    [copies, times, end],
  );
  const top = useMemo(() => {
    const stacked = times.map((_, k) =>
      [...copies.guests.map((one) => one.copies), copies.waiting].reduce((most, values) => most + (values[k] ?? 0), 0),
    );
    return roundTop(1.08 * Math.max(1, ...stacked));
  }, [copies, times]);
  const series = useMemo(() => {
    const nothing = points(
      times,
      times.map(() => 0),
      end,
    );
    return each.flatMap((values, k) => {
      const low = each.slice(0, k).reduce(sum, nothing);
      const waits = k === copies.guests.length;
      const fill = waits ? hatch(inks.madder) : guestInk(inks, k, copies.guests.length);
      const edge = waits ? [] : [line(sum(low, values), inks.indigo, { step: true, width: 0.7 })];
      return [band(low, values, fill, true), ...edge];
    });
  }, [each, copies, times, end, inks]);
  const chart = useChart(series, begin, end, top);
  return (
    <Strip
      name="Copies"
      title={
        <>
          copies on {copies.host}:{" "}
          {copies.guests.map((one, k) => (
            <span key={one.guest}>
              {k > 0 && ", "}
              <i
                style={{
                  display: "inline-block",
                  width: 9,
                  height: 9,
                  marginRight: 3,
                  background: guestInk(inks, k, copies.guests.length),
                  outline: `1px solid ${thin(inks.indigo, 0.6)}`,
                }}
              />
              {one.guest}
            </span>
          ))}
          <span style={{ color: "var(--madder)" }}>, without a place</span>
        </>
      }
      says={copies.summary}
      frame={frame}
      chart={chart}
      scale={scaleTo(top)}
      times={times}
      zone={zone}
      columns={[
        ...copies.guests.map((one) => ({
          title: `${one.guest}, most`,
          values: one.copies,
          fold: "highest" as const,
        })),
        { title: "Without a place, most", values: copies.waiting, fold: "highest" },
        { title: "Without one were a host lost, most", values: copies.stranded, fold: "highest" },
      ]}
    />
  );
}

export const copies: StripKind = {
  names: ({ copies: there }) => (there ? ["copies"] : []),
  draw: (name, { picture, zone }, frame) =>
    picture.copies && <CopiesStrip {...{ picture, zone, frame }} copies={picture.copies} key={name} />,
};
