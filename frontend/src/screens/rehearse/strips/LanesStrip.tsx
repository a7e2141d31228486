import { type MouseEvent, useMemo } from "react";
import type { Lanes, Picture } from "../../../shared/api/client";
import { type Box, boxes, hatch, useChart } from "../../../shared/chart/chart";
import { guestInk, type Inks, thin, useInks } from "../../../shared/chart/ink";
import { Strip, type StripFrame } from "../../../shared/chart/Strip";
import its from "../../../shared/chart/strips.module.css";
import type { StripKind } from "./kinds";
import { type LaneOrder, ORDERS } from "./lanes";

/** One start of an instance; times are ms since 1970. */
interface Lane {
  instance: number;
  name: string;
  row: number;
  zone: string;
  version: number;
  spot: boolean;
  machine: string;
  load: number | null;
  requested: number;
  booted: number;
  serves: number;
  drains: number | null;
  gone: number | null;
}

interface Props {
  picture: Picture;
  zone: string;
  frame: StripFrame;
  order: LaneOrder;
  setOrder: (order: LaneOrder) => void;
  chosen: number | null;
  choose: (instance: number) => void;
}

const HOUR = 3_600_000;

/** A line for each instance from its request to its end, by what the operator asks about. */
export function LanesStrip({ picture, zone, frame, order, setOrder, chosen, choose }: Props) {
  const inks = useInks();
  const { begin, end, times } = picture;
  const { lanes, classes } = useMemo(() => sorted(picture, order), [picture, order]);
  const rows = Math.max(1, ...lanes.map((lane) => lane.row + 1));
  const series = useMemo(() => {
    const inset = rows > 24 ? 0.2 : 0.8;
    const waiting: Record<"booting" | "warming" | "draining" | "chosen", Box[]> = {
      booting: [],
      warming: [],
      draining: [],
      chosen: [],
    };
    const serving: Box[][] = classes.map(() => []);
    for (const lane of lanes) {
      const y = rows - lane.row - 1;
      const gone = lane.gone ?? end;
      const drains = lane.drains ?? gone;
      const stretch = (from: number, to: number, state: Box[] | undefined) => {
        const [first, last] = [Math.max(from, begin), Math.min(to, end)];
        if (last > first) state?.push([first - begin, last - begin, y, y + 1]);
      };
      stretch(lane.requested, Math.min(lane.booted, gone), waiting.booting);
      stretch(lane.booted, Math.min(lane.serves, gone), waiting.warming);
      stretch(lane.serves, drains, serving[lane.class]);
      stretch(drains, gone, waiting.draining);
      if (lane.instance === chosen) stretch(lane.requested, gone, waiting.chosen);
    }
    const { cargo } = picture;
    return [
      ...serving.map((drawn, k) =>
        boxes(drawn, cargo ? thin(inks.verdigris, 0.22) : fill(inks, k, classes.length), inset),
      ),
      ...(cargo && order === "state"
        ? cargo.guests.map((_, guest) =>
            boxes(carried(cargo, guest, rows, begin), guestInk(inks, guest, cargo.guests.length)),
          )
        : []),
      boxes(waiting.booting, inks.ochre, inset),
      boxes(waiting.warming, hatch(inks.ochre, 4), inset),
      boxes(waiting.draining, hatch(inks.lilac, 4), inset),
      boxes(waiting.chosen, thin(inks.ink, 0.75), inset),
    ];
  }, [lanes, classes, rows, begin, end, inks, chosen, order, picture]);
  const chart = useChart(series, begin, end, rows);
  const launched = lanes.filter((lane) => lane.requested > begin).length;
  const ended = lanes.filter((lane) => lane.gone !== null && lane.gone < end).length;
  const nearest = (event: MouseEvent<HTMLElement>) => {
    const box = event.currentTarget.getBoundingClientRect();
    const row = Math.floor(((event.clientY - box.top) / box.height) * rows);
    const at = begin + ((event.clientX - box.left) / box.width) * (end - begin);
    return lanes.filter((lane) => lane.row === row).sort((a, b) => away(a, at, end) - away(b, at, end))[0];
  };
  const press = (event: MouseEvent<HTMLElement>) => {
    const near = nearest(event);
    if (near) choose(near.instance);
  };
  const point = (event: MouseEvent<HTMLElement>) => {
    const near = nearest(event);
    event.currentTarget.title = near ? `Press ${near.name} for its life` : "";
  };
  return (
    <Strip
      name="Each instance"
      title="each instance"
      says={`${launched} requested and ${ended} gone in this span: booting and warming (ochre), serving, draining (hatched)${
        picture.cargo ? `; how full each is of ${picture.cargo.guests.join(", ")}` : ""
      }.`}
      frame={frame}
      weight={1.15}
      chart={chart}
      scale={[]}
      times={times}
      zone={zone}
      tools={
        <label className={its.by}>
          by{" "}
          <select
            aria-label="Sort and shade instances by"
            value={order}
            onChange={(event) => setOrder(event.target.value as LaneOrder)}
          >
            {ORDERS.map((one) => (
              <option key={one}>{one}</option>
            ))}
          </select>
        </label>
      }
      columns={[
        {
          title: "Instances there, most",
          fold: "highest",
          values: times.map((time) => lanes.filter((l) => l.requested <= time && (l.gone ?? end) > time).length),
        },
      ]}
    >
      {/* biome-ignore lint/a11y/useKeyWithClickEvents: the lives are walked by the buttons of their panel */}
      {/* biome-ignore lint/a11y/noStaticElementInteractions: the same */}
      <div className={its.lanesTouch} onClick={press} onMouseMove={point} />
      {order !== "state" &&
        classes.map((one, k) => (
          <span key={one} className={its.className} style={{ top: `${(100 * (k + 0.5)) / classes.length}%` }}>
            <i style={{ background: fill(inks, k, classes.length) }} />
            {one}
          </span>
        ))}
    </Strip>
  );
}

/** What one guest holds on the lanes of its host, from their foot upwards. */
function carried(cargo: NonNullable<Picture["cargo"]>, guest: number, rows: number, begin: number): Box[] {
  return cargo.row.flatMap((row, k): Box[] => {
    if (cargo.guest[k] !== guest) return [];
    const foot = rows - row - 1;
    const [low, high] = [cargo.low[k] ?? 0, cargo.high[k] ?? 0];
    return [
      [(cargo.begin[k] ?? 0) - begin, (cargo.end[k] ?? 0) - begin, foot + 0.9 * low + 0.05, foot + 0.9 * high + 0.05],
    ];
  });
}

/** The columns of an answer as lanes. */
function lanesOf(columns: Lanes): Lane[] {
  return columns.instance.map((instance, k) => ({
    instance,
    name: columns.name[k] ?? `instance ${instance}`,
    row: columns.row[k] ?? 0,
    zone: columns.zones[columns.zone[k] ?? 0] ?? "",
    version: columns.version[k] ?? 0,
    spot: columns.spot[k] === 1,
    machine: columns.machines[columns.machine[k] ?? 0] ?? "",
    load: columns.load[k] ?? null,
    requested: columns.requested[k] ?? 0,
    booted: columns.booted[k] ?? 0,
    serves: columns.serves[k] ?? 0,
    drains: columns.drains[k] ?? null,
    gone: columns.gone[k] ?? null,
  }));
}

function away(lane: Lane, at: number, end: number): number {
  return Math.max(lane.requested - at, at - (lane.gone ?? end), 0);
}

/** One ink for serving, from strong to faint over the classes. */
function fill(inks: Inks, number: number, of: number): string {
  return thin(inks.verdigris, of === 1 ? 0.72 : 0.95 - (0.7 * number) / Math.max(1, of - 1));
}

/** Lanes in their order, each with its class and the line that it is drawn on; lanes of a class stand together. */
function sorted(picture: Picture, order: LaneOrder): { lanes: (Lane & { class: number })[]; classes: string[] } {
  const { end } = picture;
  const lanes = lanesOf(picture.lanes);
  if (order === "state") return { lanes: lanes.map((lane) => ({ ...lane, class: 0 })), classes: ["serving"] };
  const name = (lane: Lane): string => {
    if (order === "zone") return lane.zone;
    if (order === "version") return `version ${lane.version}`;
    if (order === "machine") return `${lane.machine}, ${lane.spot ? "spot" : "on demand"}`;
    if (order === "purchase") return lane.spot ? "spot" : "on demand";
    if (order === "load") {
      if (lane.load === null) return "no load";
      return lane.load < 0.25
        ? "under 25 %"
        : lane.load < 0.5
          ? "25 to 50 %"
          : lane.load < 0.75
            ? "50 to 75 %"
            : "over 75 %";
    }
    const age = (lane.gone ?? end) - lane.requested;
    return age < HOUR ? "under 1 h" : age < 6 * HOUR ? "1 to 6 h" : age < 24 * HOUR ? "6 h to 1 d" : "over 1 d";
  };
  const ranks = ["over 75 %", "50 to 75 %", "25 to 50 %", "under 25 %", "no load"].concat([
    "over 1 d",
    "6 h to 1 d",
    "1 to 6 h",
    "under 1 h",
  ]);
  const names = [...new Set(lanes.map(name))];
  const classes = names.sort((a, b) => ranks.indexOf(a) - ranks.indexOf(b) || a.localeCompare(b));
  const placed: (Lane & { class: number })[] = [];
  let first = 0;
  classes.forEach((one, number) => {
    const free: number[] = [];
    const lines = new Map<number, number>();
    for (const lane of lanes.filter((each) => name(each) === one)) {
      let line = lines.get(lane.instance) ?? free.findIndex((from) => from <= lane.requested);
      if (line < 0) line = free.length;
      lines.set(lane.instance, line);
      free[line] = Math.max(free[line] ?? 0, lane.gone ?? Number.POSITIVE_INFINITY);
      placed.push({ ...lane, row: first + line, class: number });
    }
    first += free.length;
  });
  return { lanes: placed, classes };
}

export const lanes: StripKind = {
  names: () => ["lanes"],
  draw: (name, { picture, zone, lanes: order, setLanes, instance, setInstance }, frame) => (
    <LanesStrip
      {...{ picture, zone, frame, order }}
      key={name}
      setOrder={setLanes}
      chosen={instance}
      choose={setInstance}
    />
  ),
};
