import { clsx } from "clsx";
import { type CSSProperties, type KeyboardEvent, type PointerEvent, type ReactNode, useRef } from "react";
import its from "../chart/strips.module.css";
import { useDraft } from "../gesture/useDraft";

const MINUTE = 60_000;

interface Props {
  /** What it covers now and the axis it lies on, ms since 1970. */
  begin: number;
  end: number;
  axis: { begin: number; end: number };
  label: string;
  tone: string;
  /** Shows it later and longer by so much than it was when it was taken up, both in ms. */
  change: (by: number, longer: number) => void;
  /** Whether its end can be moved by itself. */
  stretches: boolean;
  keep: () => void;
  putBack: () => void;
  /** Takes it away, or out of this one time. */
  drop?: () => void;
  /** The finest step of moving it, in minutes. */
  step?: number;
  style?: CSSProperties;
  /** What is drawn within it, behind its words. */
  inside?: ReactNode;
  children?: string;
}

interface Stretch {
  begin: number;
  end: number;
}

/** A stretch of time that is moved by dragging it, lengthened at its end, or both by the arrow keys. */
export function TimeBlock(props: Props) {
  const { axis, label, tone } = props;
  const step = (props.step ?? 5) * MINUTE;
  const taken = useRef<Stretch>(props);
  const span = axis.end - axis.begin;
  const place = (time: number) => (100 * (Math.min(Math.max(time, axis.begin), axis.end) - axis.begin)) / span;
  const timeAt = (event: PointerEvent<HTMLElement>) => {
    const box = event.currentTarget.closest("[data-axis]")?.getBoundingClientRect();
    return box ? axis.begin + ((event.clientX - box.left) / box.width) * span : axis.begin;
  };
  const moved = (from: Stretch, by: number): Stretch => {
    const next = Math.round((from.begin + by) / step) * step;
    return { begin: next, end: next + from.end - from.begin };
  };
  const stretched = (from: Stretch, by: number): Stretch => ({
    begin: from.begin,
    end: from.begin + Math.max(step, Math.round((from.end + by - from.begin) / step) * step),
  });
  const same = (one: Stretch, other: Stretch) => one.begin === other.begin && one.end === other.end;
  const { draft, to, finish, drop, pointed, keyed } = useDraft<Stretch, { at: number; from: Stretch; atEnd: boolean }>({
    drag: (event, { at, from, atEnd }) => (atEnd ? stretched : moved)(from, timeAt(event) - at),
    same,
    preview: (next, first) => {
      if (first) taken.current = { begin: props.begin, end: props.end };
      const from = taken.current;
      props.change(next.begin - from.begin, next.end - next.begin - (from.end - from.begin));
    },
    keep: props.keep,
    putBack: props.putBack,
  });
  const { begin, end } = draft ?? props;
  const grip = (atEnd: boolean) =>
    pointed((event) => ({ at: timeAt(event), from: { begin, end }, atEnd }), ".time-block");
  const key = (event: KeyboardEvent) => {
    const longer = event.shiftKey && props.stretches;
    const by = (steps: number) => () => {
      const next = (longer ? stretched : moved)({ begin, end }, steps * step);
      if (!same(next, { begin, end })) to(next);
    };
    const out = props.drop;
    keyed(event, {
      ArrowLeft: by(-1),
      ArrowRight: by(1),
      PageDown: by(-12),
      PageUp: by(12),
      ...(out && {
        Delete: () => {
          drop();
          out();
        },
      }),
    });
  };
  if (end < axis.begin || begin > axis.end) return null;
  return (
    <div
      className={clsx(its.timeBlock, tone, draft && its.moving)}
      style={{ ...props.style, left: `${place(begin)}%`, width: `${place(end) - place(begin)}%` }}
      role="slider"
      tabIndex={0}
      aria-label={label}
      aria-valuemin={axis.begin}
      aria-valuemax={axis.end}
      aria-valuenow={begin}
      aria-valuetext={label}
      title={`${label}: drag it, or move it with the arrow keys${props.stretches ? "; its end, or Shift, makes it longer" : ""}${props.drop ? "; Delete takes it out" : ""}`}
      {...grip(false)}
      onKeyDown={key}
      onBlur={finish}
    >
      {props.inside}
      <span>{props.children}</span>
      {props.stretches && <i aria-hidden {...grip(true)} />}
    </div>
  );
}
