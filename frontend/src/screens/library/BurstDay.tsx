import type { Change, LayerStrip } from "../../shared/api/client";
import stripsSheet from "../../shared/chart/strips.module.css";
import { TimeBlock } from "../../shared/time/TimeBlock";
import { clock, DAY, GRID, HEIGHT, HourLabels, HourLines, WIDTH } from "./DayHours";
import its from "./library.module.css";

interface Props {
  layer: LayerStrip;
  edit: { preview: (changes: Change[]) => void; commit: (changes: Change[]) => void };
  keep: () => void;
  putBack: () => void;
}

const AXIS = { begin: 0, end: DAY * 1000 };

/** The bursts of a day, moved and stretched on its hours; a double click adds one, Delete takes one out. */
export function BurstDay({ layer, edit, keep, putBack }: Props) {
  const add = (event: { clientX: number; currentTarget: HTMLElement }) => {
    const box = event.currentTarget.getBoundingClientRect();
    const seconds = (Math.round((((event.clientX - box.left) / box.width) * DAY) / GRID) * GRID) % DAY;
    edit.commit([{ op: "add", path: `${layer.key}.at`, value: clock(seconds) }]);
  };
  return (
    <div className={`${stripsSheet.plot} ${its.plot} ${its.dayCurve}`}>
      {/* biome-ignore lint/a11y/noStaticElementInteractions: the times are words of the sentence, too */}
      <div className={stripsSheet.blocks} data-axis onDoubleClick={add}>
        <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} preserveAspectRatio="none" aria-hidden>
          <HourLines />
        </svg>
        {layer.points.map((point, number) => (
          <TimeBlock
            // biome-ignore lint/suspicious/noArrayIndexKey: a block stays the same while it is moved
            key={number}
            begin={point.seconds * 1000}
            end={(point.seconds + layer.lasts) * 1000}
            axis={AXIS}
            label={`A burst at ${point.at}`}
            tone="tone-rush"
            stretches
            change={(by, longer) =>
              edit.preview([
                { op: "set", path: point.path, value: clock((point.seconds + by / 1000 + DAY) % DAY) },
                ...(longer
                  ? [
                      {
                        op: "set" as const,
                        path: `${layer.key}.over`,
                        value: Math.max(60, layer.lasts + longer / 1000),
                      },
                    ]
                  : []),
              ])
            }
            keep={keep}
            putBack={putBack}
            drop={layer.points.length > 1 ? () => edit.commit([{ op: "remove", path: point.path }]) : undefined}
          />
        ))}
      </div>
      <HourLabels />
    </div>
  );
}
