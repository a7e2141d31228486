import type { Change, Picture } from "../../../shared/api/client";
import { TimeBlock } from "../../../shared/time/TimeBlock";

interface Props {
  hand: Picture["calendar"]["hands"][number];
  axis: { begin: number; end: number };
  preview: (changes: Change[]) => void;
  commit: (changes: Change[]) => void;
  keepTried: () => void;
  putBack: () => void;
}

/** What a hand does at a time, as a mark that is moved. */
export function HandBlock({ hand, axis, preview, commit, keepTried, putBack }: Props) {
  const end = hand.end ?? hand.at;
  return (
    <TimeBlock
      begin={hand.at}
      end={end}
      axis={axis}
      label={`by hand: ${hand.label}`}
      tone="tone-hand"
      step={1}
      change={(by, longer) =>
        preview([{ op: "move", path: hand.key, value: { by: by / 1000, longer: longer / 1000 } }])
      }
      stretches={hand.end !== null}
      keep={keepTried}
      putBack={putBack}
      drop={() => commit([{ op: "remove", path: hand.key, value: null }])}
    />
  );
}
