import { type CSSProperties, type KeyboardEvent, type PointerEvent, useRef, useState } from "react";

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
  children?: string;
}

interface Draft {
  begin: number;
  end: number;
}

/** A stretch of time that is moved by dragging it, lengthened at its end, or both by the arrow keys. */
export function TimeBlock(props: Props) {
  const { axis, label, tone } = props;
  const step = (props.step ?? 5) * MINUTE;
  const [draft, setDraft] = useState<Draft | null>(null);
  const taken = useRef<Draft | null>(null);
  const grip = useRef<{ at: number; from: Draft; end: boolean } | null>(null);
  const { begin, end } = draft ?? props;
  const span = axis.end - axis.begin;
  const place = (time: number) => (100 * (Math.min(Math.max(time, axis.begin), axis.end) - axis.begin)) / span;

  const to = (next: Draft) => {
    if (next.begin === begin && next.end === end) return;
    taken.current ??= { begin: props.begin, end: props.end };
    const from = taken.current;
    setDraft(next);
    props.change(next.begin - from.begin, next.end - next.begin - (from.end - from.begin));
  };
  const moveTo = (time: number, length: number) => {
    const next = Math.round(time / step) * step;
    to({ begin: next, end: next + length });
  };
  const stretchTo = (time: number) =>
    to({ begin, end: begin + Math.max(step, Math.round((time - begin) / step) * step) });
  const drop = () => {
    taken.current = null;
    setDraft(null);
  };
  const finish = () => {
    if (draft) props.keep();
    drop();
  };
  const timeAt = (event: PointerEvent<HTMLElement>) => {
    const box = event.currentTarget.closest("[data-axis]")?.getBoundingClientRect();
    return box ? axis.begin + ((event.clientX - box.left) / box.width) * span : axis.begin;
  };
  const down = (event: PointerEvent<HTMLElement>, atEnd: boolean) => {
    if (event.button !== 0) return;
    event.preventDefault();
    event.stopPropagation();
    event.currentTarget.setPointerCapture(event.pointerId);
    event.currentTarget.closest<HTMLElement>(".time-block")?.focus();
    grip.current = { at: timeAt(event), from: { begin, end }, end: atEnd };
  };
  const drag = (event: PointerEvent<HTMLElement>) => {
    const held = grip.current;
    if (!held) return;
    event.stopPropagation();
    const by = timeAt(event) - held.at;
    if (held.end) stretchTo(held.from.end + by);
    else moveTo(held.from.begin + by, held.from.end - held.from.begin);
  };
  const up = (event: PointerEvent<HTMLElement>) => {
    if (!grip.current) return;
    event.stopPropagation();
    grip.current = null;
    finish();
  };
  const key = (event: KeyboardEvent) => {
    const by = { ArrowLeft: -1, ArrowRight: 1, PageDown: -12, PageUp: 12 }[event.key];
    if (by !== undefined && event.shiftKey && props.stretches) stretchTo(end + by * step);
    else if (by !== undefined) moveTo(begin + by * step, end - begin);
    else if (event.key === "Enter") finish();
    else if (event.key === "Escape" && draft) {
      drop();
      props.putBack();
    } else if (event.key === "Delete" && props.drop) props.drop();
    else return;
    event.preventDefault();
    event.stopPropagation();
  };
  if (end < axis.begin || begin > axis.end) return null;
  return (
    <div
      className={`time-block ${tone}${draft ? " moving" : ""}`}
      style={{ ...props.style, left: `${place(begin)}%`, width: `${place(end) - place(begin)}%` }}
      role="slider"
      tabIndex={0}
      aria-label={label}
      aria-valuemin={axis.begin}
      aria-valuemax={axis.end}
      aria-valuenow={begin}
      aria-valuetext={label}
      title={`${label}: drag it, or move it with the arrow keys${props.stretches ? "; its end, or Shift, makes it longer" : ""}${props.drop ? "; Delete takes it out" : ""}`}
      onPointerDown={(event) => down(event, false)}
      onPointerMove={drag}
      onPointerUp={up}
      onKeyDown={key}
      onBlur={finish}
    >
      <span>{props.children}</span>
      {props.stretches && (
        <i aria-hidden onPointerDown={(event) => down(event, true)} onPointerMove={drag} onPointerUp={up} />
      )}
    </div>
  );
}
