import "../../../shared/chart/strips.css";
import { type KeyboardEvent, memo, type ReactNode, useState } from "react";
import type { Band, Change, Ghost, Picture } from "../../../shared/api/client";
import type { StripFrame } from "../../../shared/chart/Strip";
import type { Handling } from "../../../shared/gesture/handling";
import { TimeAxis } from "../../../shared/time/TimeAxis";
import { CountStrip } from "./CountStrip";
import { DemandStrip } from "./DemandStrip";
import { type LaneOrder, LanesStrip } from "./LanesStrip";
import { MetricStrip } from "./MetricStrip";
import { Minimap } from "./Minimap";
import { SpendStrip } from "./SpendStrip";
import { Touch } from "./Touch";

interface Props {
  picture: Picture;
  ghost: Ghost | null;
  band: Band | null;
  zone: string;
  at: number | null;
  choose: (at: number) => void;
  walk: (by: -1 | 1) => void;
  closeMoment: () => void;
  look: (begin: number, end: number) => void;
  handling: Handling;
  edits: Edits;
  /** Metrics that are shown though no policy looks at them. */
  besides: string[];
  setBesides: (metrics: string[]) => void;
  instance: number | null;
  setInstance: (instance: number) => void;
}

/** How what lies on the strips is changed: tried, kept, put back. */
export interface Edits {
  preview: (changes: Change[]) => void;
  commit: (changes: Change[]) => void;
  keepTried: () => void;
  putBack: () => void;
}

interface Layout {
  order: string[];
  folded: string[];
  lanes: LaneOrder;
}

const KEPT = "jostle.strips";

function keptLayout(): Layout {
  try {
    const kept = JSON.parse(localStorage.getItem(KEPT) ?? "") as Layout;
    return { order: kept.order ?? [], folded: kept.folded ?? [], lanes: kept.lanes ?? "state" };
  } catch {
    return { order: [], folded: [], lanes: "state" };
  }
}

/** The week drawn as strips on one time axis. */
export const Strips = memo(function Strips(props: Props) {
  const { picture, ghost, band, zone, look } = props;
  const [layout, setLayout] = useState(keptLayout);
  const keep = (next: Layout) => {
    setLayout(next);
    localStorage.setItem(KEPT, JSON.stringify(next));
  };
  const names = ["demand", ...picture.metrics.map((m) => m.metric as string), "count", "lanes", "spend"];
  const known = layout.order.filter((name) => names.includes(name));
  const order = known.length ? [...known, ...names.filter((name) => !known.includes(name))] : names;
  const frame = (name: string): StripFrame => ({
    folded: layout.folded.includes(name),
    fold: () =>
      keep({
        ...layout,
        order,
        folded: layout.folded.includes(name) ? layout.folded.filter((n) => n !== name) : [...layout.folded, name],
      }),
    move: (by) => {
      const from = order.indexOf(name);
      const to = Math.min(order.length - 1, Math.max(0, from + by));
      const next = order.filter((n) => n !== name);
      next.splice(to, 0, name);
      keep({ ...layout, order: next });
    },
  });
  const strip = (name: string): ReactNode => {
    const shared = { picture, zone, frame: frame(name) };
    if (name === "demand") return <DemandStrip {...shared} key={name} ghost={ghost} band={band} />;
    if (name === "count") return <CountStrip {...shared} key={name} ghost={ghost} band={band} edits={props.edits} />;
    if (name === "lanes")
      return (
        <LanesStrip
          {...shared}
          key={name}
          order={layout.lanes}
          setOrder={(lanes) => keep({ ...layout, lanes })}
          chosen={props.instance}
          choose={props.setInstance}
        />
      );
    if (name === "spend") return <SpendStrip {...shared} key={name} />;
    const metric = picture.metrics.find((m) => m.metric === name);
    if (!metric) return null;
    const drop = props.besides.includes(name)
      ? () => props.setBesides(props.besides.filter((one) => one !== name))
      : undefined;
    return (
      <MetricStrip
        {...shared}
        key={name}
        strip={metric}
        ghost={ghost}
        band={name === "cpu" ? band : null}
        handling={props.handling}
        drop={drop}
      />
    );
  };
  const key = (event: KeyboardEvent) => {
    const { begin, end, whole } = picture;
    const length = end - begin;
    const middle = props.at !== null && props.at > begin && props.at < end ? props.at : (begin + end) / 2;
    if (event.key === "ArrowLeft" || event.key === "ArrowRight") props.walk(event.key === "ArrowLeft" ? -1 : 1);
    else if (event.key === "Enter" && event.target === event.currentTarget) props.choose(middle);
    else if (event.key === "Escape") props.closeMoment();
    else if (event.key === "+" || event.key === "=") look(middle - length / 4, middle + length / 4);
    else if (event.key === "-") look(middle - length, middle + length);
    else if (event.key === "Home") look(whole.begin, whole.end);
    else return;
    event.preventDefault();
  };
  return (
    <>
      <section
        className="strips"
        // biome-ignore lint/a11y/noNoninteractiveTabindex: the strips as a whole take keys for the moment and the zoom
        tabIndex={0}
        aria-label="The rehearsed span as strips. Enter explains a moment, arrow keys walk from decision to decision, plus and minus zoom, Home shows all"
        onKeyDown={key}
      >
        <TimeAxis picture={picture} />
        <div className="stack">
          {order.map(strip)}
          <Touch picture={picture} zone={zone} at={props.at} choose={props.choose} look={look} />
        </div>
      </section>
      <div className="below-strips">
        <Minimap picture={picture} zone={zone} look={look} />
        <select
          aria-label="Show a metric as a strip"
          className="add-strip"
          value=""
          onChange={(event) => props.setBesides([...props.besides, event.target.value])}
        >
          <option value="" disabled>
            + strip
          </option>
          {picture.offered
            .filter((one) => !picture.metrics.some((metric) => metric.metric === one.key))
            .map((one) => (
              <option key={one.key} value={one.key}>
                {one.label}
              </option>
            ))}
        </select>
      </div>
    </>
  );
});
