import { type KeyboardEvent, type PointerEvent, useRef, useState } from "react";

const MINUTE = 60_000;
const STEP = 5 * MINUTE;

interface Props {
  /** What it covers now and the axis it lies on, ms since 1970. */
  begin: number;
  end: number;
  axis: { begin: number; end: number };
  label: string;
  tone: string;
  /** Shows it elsewhere while it is moved, or longer while it is stretched; `length` is in ms. */
  move: (begin: number) => void;
  stretch?: ((length: number) => void) | undefined;
  keep: () => void;
  putBack: () => void;
  children?: string;
}

type Draft = { begin: number; end: number };

/** A stretch of time that is moved by dragging it, lengthened at its end, or both by the arrow keys. */
export function TimeBlock(props: Props) {
  const { axis, label, tone } = props;
  const [draft, setDraft] = useState<Draft | null>(null);
  const grip = useRef<{ at: number; from: Draft; end: boolean } | null>(null);
  const { begin, end } = draft ?? props;
  const span = axis.end - axis.begin;
  const place = (time: number) => (100 * (Math.min(Math.max(time, axis.begin), axis.end) - axis.begin)) / span;

  const moveTo = (time: number, length: number) => {
    const next = Math.round(time / STEP) * STEP;
    if (next === begin) return;
    setDraft({ begin: next, end: next + length });
    props.move(next);
  };
  const stretchTo = (time: number) => {
    const next = Math.max(STEP, Math.round((time - begin) / STEP) * STEP);
    if (next === end - begin) return;
    setDraft({ begin, end: begin + next });
    props.stretch?.(next);
  };
  const finish = () => {
    if (draft) props.keep();
    setDraft(null);
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
    if (by !== undefined && event.shiftKey && props.stretch) stretchTo(end + by * STEP);
    else if (by !== undefined) moveTo(begin + by * STEP, end - begin);
    else if (event.key === "Enter") finish();
    else if (event.key === "Escape" && draft) {
      setDraft(null);
      props.putBack();
    } else return;
    event.preventDefault();
    event.stopPropagation();
  };
  if (end < axis.begin || begin > axis.end) return null;
  return (
    <div
      className={`time-block ${tone}${draft ? " moving" : ""}`}
      style={{ left: `${place(begin)}%`, width: `${place(end) - place(begin)}%` }}
      role="slider"
      tabIndex={0}
      aria-label={label}
      aria-valuemin={axis.begin}
      aria-valuemax={axis.end}
      aria-valuenow={begin}
      aria-valuetext={label}
      title={`${label}: drag it, or move it with the arrow keys${props.stretch ? "; its end, or Shift, makes it longer" : ""}`}
      onPointerDown={(event) => down(event, false)}
      onPointerMove={drag}
      onPointerUp={up}
      onKeyDown={key}
      onBlur={finish}
    >
      <span>{props.children}</span>
      {props.stretch && (
        <i aria-hidden onPointerDown={(event) => down(event, true)} onPointerMove={drag} onPointerUp={up} />
      )}
    </div>
  );
}
