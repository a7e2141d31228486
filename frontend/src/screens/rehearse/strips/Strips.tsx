import { type KeyboardEvent, memo, useMemo, useState } from "react";
import { type Act, useOffered } from "../../../shared/acts/acts";
import type { Picture } from "../../../shared/api/client";
import type { StripFrame } from "../../../shared/chart/Strip";
import stripsSheet from "../../../shared/chart/strips.module.css";
import { TimeAxis } from "../../../shared/time/TimeAxis";
import its from "../rehearse.module.css";
import { copies } from "./CopiesStrip";
import { count } from "./CountStrip";
import { demand } from "./DemandStrip";
import type { Stage, StripKind } from "./kinds";
import { lanes } from "./LanesStrip";
import type { LaneOrder } from "./lanes";
import { metrics } from "./MetricStrip";
import { Minimap } from "./Minimap";
import { spend } from "./SpendStrip";
import { Touch } from "./Touch";

// In the order in which they stand until somebody moves them.
const KINDS: StripKind[] = [demand, metrics, count, copies, lanes, spend];

interface Props extends Omit<Stage, "lanes" | "setLanes"> {
  at: number | null;
  choose: (at: number) => void;
  walk: (by: -1 | 1) => void;
  closeMoment: () => void;
  look: (begin: number, end: number) => void;
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
  const { picture, zone, look } = props;
  const [layout, setLayout] = useState(keptLayout);
  const keep = (next: Layout) => {
    setLayout(next);
    localStorage.setItem(KEPT, JSON.stringify(next));
  };
  const kindOf = useMemo(
    () => new Map(KINDS.flatMap((kind) => kind.names(picture).map((name) => [name, kind] as const))),
    [picture],
  );
  const names = useMemo(() => [...kindOf.keys()], [kindOf]);
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
  const stage: Stage = { ...props, lanes: layout.lanes, setLanes: (next) => keep({ ...layout, lanes: next }) };
  const { besides, setBesides } = props;
  useOffered(
    useMemo(
      (): Act[] =>
        hidden(picture).map(({ key, label }) => ({
          group: "Metrics",
          label,
          about: "Show it as a strip",
          run: () => setBesides([...besides, key]),
        })),
      [picture, besides, setBesides],
    ),
  );
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
        className={`${stripsSheet.strips} ${its.strips}`}
        // biome-ignore lint/a11y/noNoninteractiveTabindex: the strips as a whole take keys for the moment and the zoom
        tabIndex={0}
        aria-label="The rehearsed span as strips. Enter explains a moment, arrow keys walk from decision to decision, plus and minus zoom, Home shows all"
        onKeyDown={key}
      >
        <TimeAxis picture={picture} />
        <div className={stripsSheet.stack}>
          {order.map((name) => kindOf.get(name)?.draw(name, stage, frame(name)))}
          <Touch picture={picture} zone={zone} at={props.at} choose={props.choose} look={look} />
        </div>
      </section>
      <div className={stripsSheet.belowStrips}>
        <Minimap picture={picture} zone={zone} look={look} />
        <select
          aria-label="Show a metric as a strip"
          className={stripsSheet.addStrip}
          value=""
          onChange={(event) => props.setBesides([...props.besides, event.target.value])}
        >
          <option value="" disabled>
            + strip
          </option>
          {hidden(picture).map((one) => (
            <option key={one.key} value={one.key}>
              {one.label}
            </option>
          ))}
        </select>
      </div>
    </>
  );
});

/** The metrics that no strip shows. */
function hidden(picture: Picture) {
  return picture.offered.filter((one) => !picture.metrics.some((metric) => metric.metric === one.key));
}
