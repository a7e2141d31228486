import type { Change, Picture } from "../../../shared/api/client";
import stripsSheet from "../../../shared/chart/strips.module.css";
import { TimeBlock } from "../../../shared/time/TimeBlock";
import its from "../rehearse.module.css";

interface Props {
  calendar: Picture["calendar"];
  preview: (changes: Change[]) => void;
  commit: (changes: Change[]) => void;
  keepTried: () => void;
  putBack: () => void;
}

/** The calendar as a week: a line for each entry, its blocks moved and stretched where they stand. */
export function CalendarWeek({ calendar, preview, commit, keepTried, putBack }: Props) {
  const { days, entries } = calendar;
  const [first, last] = [days[0], days.at(-1)];
  if (!first || !last || entries.length === 0) return null;
  const axis = { begin: first.begin, end: last.end };
  const place = (time: number) => `${(100 * (time - axis.begin)) / (axis.end - axis.begin)}%`;
  const changes = days.filter((day) => day.clock_change);
  return (
    <div className={its.calendarWeek}>
      <div className={its.days} aria-hidden>
        {days.map((day) => (
          <span key={day.begin} style={{ left: place(day.begin) }} className={day.clock_change ? its.clockChange : ""}>
            {day.label}
          </span>
        ))}
      </div>
      {entries.map((entry) => (
        <div key={entry.key} className={its.entry}>
          <span className={its.order}>{entry.label}</span>
          <div className={`${stripsSheet.blocks} ${its.blocks}`} data-axis>
            {days.map((day) => (
              <i key={day.begin} style={{ left: place(day.begin) }} aria-hidden />
            ))}
            <EntryBlocks {...{ entry, axis, preview, commit, keepTried, putBack }} step={15} />
          </div>
        </div>
      ))}
      {changes.map((day) => (
        <p key={day.begin} className={`quiet ${its.clockNote}`}>
          {day.label}: {day.clock_change}.
        </p>
      ))}
    </div>
  );
}

type Entry = Picture["calendar"]["entries"][number];

interface BlocksProps extends Omit<Props, "calendar"> {
  entry: Entry;
  axis: { begin: number; end: number };
  step?: number;
  style?: React.CSSProperties;
}

/** All times at which an entry holds. */
export function EntryBlocks({ entry, ...rest }: BlocksProps) {
  // biome-ignore lint/suspicious/noArrayIndexKey: a block that is moved stays the same one
  return entry.blocks.map((block, number) => <EntryBlock key={number} {...{ entry, block, ...rest }} />);
}

function within(time: number, block: { begin: number; end: number }): string {
  return `${(100 * (time - block.begin)) / Math.max(1, block.end - block.begin)}%`;
}

interface BlockProps extends BlocksProps {
  block: { begin: number; end: number };
}

/** One time at which an entry holds. Moving it moves them all; Delete leaves this day out. */
function EntryBlock({ entry, block, axis, preview, commit, keepTried, putBack, step, style }: BlockProps) {
  return (
    <TimeBlock
      begin={block.begin}
      end={block.end}
      axis={axis}
      label={`${entry.key.replace("calendar.", "")}, ${entry.label}`}
      tone={entry.paused ? "tone-paused" : "tone-calendar"}
      step={step ?? 5}
      {...(style ? { style } : {})}
      inside={entry.stages.map((stage) => (
        <b
          key={stage.begin}
          className={stripsSheet[stage.tone]}
          title={stage.said}
          style={{ left: within(stage.begin, block), width: within(block.begin + stage.end - stage.begin, block) }}
        />
      ))}
      change={(by, longer) =>
        preview([{ op: "move", path: entry.key, value: { by: by / 1000, longer: longer / 1000 } }])
      }
      stretches={entry.lasting}
      keep={keepTried}
      putBack={putBack}
      drop={() =>
        commit([
          entry.repeats
            ? { op: "skip", path: entry.key, value: block.begin }
            : { op: "remove", path: entry.key, value: null },
        ])
      }
    />
  );
}
