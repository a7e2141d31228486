import { clsx } from "clsx";
import type { Threshold } from "../../../shared/api/client";
import its from "../../../shared/chart/strips.module.css";
import type { Handling } from "../../../shared/gesture/handling";
import { useDraft } from "../../../shared/gesture/useDraft";

interface Props {
  threshold: Threshold;
  scale: number;
  top: number;
  /** A value stands at (value / top) to this power. */
  bend: number;
  unit: string;
  shift: number;
  handling: Handling;
}

/** A threshold as a line on its metric: dragged up and down, or moved by the arrow keys. */
export function ThresholdLine({ threshold, scale, top, bend, unit, shift, handling }: Props) {
  const step = threshold.step * scale;
  const stepped = (wanted: number) => +Math.min(top, Math.max(0, Math.round(wanted / step) * step)).toFixed(6);
  const height = (value: number) => Math.min(1, value / top) ** bend;
  // By how far the pointer went, not by where it is: what is shown above the strip may move it meanwhile.
  const { draft, to, finish, pointed, keyed } = useDraft<number, { at: number; from: number; of: number }>({
    drag: (event, { at, from, of }) => stepped(Math.max(0, from + (at - event.clientY) / of) ** (1 / bend) * top),
    same: Object.is,
    preview: (value) => handling.preview(threshold.path, value / scale),
    keep: (value) => handling.commit(threshold.path, value / scale),
    putBack: handling.putBack,
  });
  const shown = draft ?? threshold.shown;
  const by = (steps: number) => () => to(stepped(shown + steps * step));
  return (
    <div
      className={clsx(its.threshold, `tone-${threshold.tone}`)}
      style={{ top: `${100 - 100 * height(shown)}%` }}
      role="slider"
      tabIndex={0}
      aria-label={`${threshold.policy}: ${threshold.text}`}
      aria-orientation="vertical"
      aria-valuenow={shown}
      aria-valuemin={0}
      aria-valuemax={top}
      title={`${threshold.text}: drag it, or move it with the arrow keys`}
      aria-valuetext={`${+shown.toFixed(3)} ${unit}`}
      {...pointed((event) => ({
        at: event.clientY,
        from: height(shown),
        of: event.currentTarget.parentElement?.clientHeight || 1,
      }))}
      onKeyDown={(event) => {
        const size = event.shiftKey ? 5 : 1;
        const [up, down] = [by(size), by(-size)];
        keyed(event, {
          ArrowUp: up,
          ArrowRight: up,
          ArrowDown: down,
          ArrowLeft: down,
          PageUp: by(5),
          PageDown: by(-5),
        });
      }}
      onBlur={finish}
    >
      <span className={its.chip} style={{ marginTop: shift }}>
        {threshold.side} {+shown.toFixed(2)} {unit}
      </span>
    </div>
  );
}
