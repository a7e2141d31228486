import { type KeyboardEvent, type PointerEvent, useRef, useState } from "react";

interface Options<Value, Grip> {
  /** What the pointer stands for, by what was held when the drag began; null where it stands for nothing. */
  drag: (event: PointerEvent<HTMLElement>, grip: Grip) => Value | null;
  same: (one: Value, other: Value) => boolean;
  /** Shows a value; `first` says that it is the first since something was kept or put back. */
  preview: (value: Value, first: boolean) => void;
  keep: (value: Value) => void;
  putBack: () => void;
}

interface Pointed {
  onPointerDown: (event: PointerEvent<HTMLElement>) => void;
  onPointerMove: (event: PointerEvent<HTMLElement>) => void;
  onPointerUp: (event: PointerEvent<HTMLElement>) => void;
}

export interface Draft<Value, Grip> {
  /** What is being tried, null at rest. */
  draft: Value | null;
  held: () => boolean;
  to: (value: Value) => void;
  finish: () => void;
  /** Drops what is tried without a word. */
  drop: () => void;
  /** The pointer's part: `take` says what is held, and `focus` what gets the focus if not the element itself. */
  pointed: (take: (event: PointerEvent<HTMLElement>) => Grip, focus?: string) => Pointed;
  /** The keys' part: what each does besides Enter, which keeps, and Escape, which puts back. */
  keyed: (event: KeyboardEvent, keys: Partial<Record<string, () => void>>) => void;
}

/** A value that is tried while it is dragged or stepped by keys, and then kept or put back. */
export function useDraft<Value, Grip = null>({
  drag,
  same,
  preview,
  keep,
  putBack,
}: Options<Value, Grip>): Draft<Value, Grip> {
  const [draft, setDraft] = useState<Value | null>(null);
  const grip = useRef<{ it: Grip } | null>(null);
  const to = (value: Value) => {
    if (draft !== null && same(value, draft)) return;
    setDraft(value);
    preview(value, draft === null);
  };
  const drop = () => setDraft(null);
  const finish = () => {
    if (draft !== null) keep(draft);
    drop();
  };
  return {
    draft,
    held: () => grip.current !== null,
    to,
    finish,
    drop,
    pointed: (take, focus) => ({
      onPointerDown: (event) => {
        if (event.button !== 0) return;
        event.preventDefault();
        event.stopPropagation();
        event.currentTarget.setPointerCapture(event.pointerId);
        (focus ? event.currentTarget.closest<HTMLElement>(focus) : event.currentTarget)?.focus();
        grip.current = { it: take(event) };
      },
      onPointerMove: (event) => {
        if (!grip.current) return;
        event.stopPropagation();
        const value = drag(event, grip.current.it);
        if (value !== null) to(value);
      },
      onPointerUp: (event) => {
        if (!grip.current) return;
        event.stopPropagation();
        grip.current = null;
        finish();
      },
    }),
    keyed: (event, keys) => {
      const act = keys[event.key];
      if (act) act();
      else if (event.key === "Enter") finish();
      else if (event.key === "Escape" && draft !== null) {
        drop();
        putBack();
      } else return;
      event.preventDefault();
      event.stopPropagation();
    },
  };
}
