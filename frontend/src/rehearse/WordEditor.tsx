import {
  autoUpdate,
  FloatingFocusManager,
  FloatingPortal,
  flip,
  offset,
  shift,
  useDismiss,
  useFloating,
  useInteractions,
} from "@floating-ui/react";
import { NumberInput, Slider } from "@mantine/core";
import { type KeyboardEvent, type ReactNode, useState } from "react";
import type { Distribution, Editor, Word } from "../api/client";
import type { Handling } from "../strips/ThresholdLine";
import { DistributionChart } from "./DistributionChart";
import { OrderEditor } from "./OrderEditor";
import { isWritten, WrittenEditor } from "./WrittenEditor";

interface Props {
  word: Word;
  editor: Editor;
  distribution: Distribution | undefined;
  handling: Handling;
}

// Longer words than this many letters break over lines.
const LONG = 30;

/** An underlined word of a sentence. It opens a small editor in place; up and down step it even when closed. */
export function WordEditor({ word, editor, distribution, handling }: Props) {
  const path = word.path ?? "";
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const [open, setOpen] = useState(false);
  const [draft, setDraft] = useState<number | string>("");
  const [touched, setTouched] = useState(false);
  const shown = typeof word.value === "number" ? +(word.value * editor.scale).toFixed(4) : 0;

  const begin = () => {
    setDraft(shown);
    if (Array.isArray(word.value)) setOrder(word.value);
    setTouched(false);
    setOpen(true);
  };
  const change = (next: number | string) => {
    setDraft(next);
    if (typeof next !== "number" || Number.isNaN(next) || next === draft) return;
    setTouched(true);
    handling.preview(path, inBase(next, editor.scale));
  };
  const [order, setOrder] = useState<string[]>([]);
  const reorder = (next: string[]) => {
    setOrder(next);
    setTouched(true);
    handling.preview(path, next);
  };
  const finish = () => {
    setOpen(false);
    if (touched && editor.kind === "order") handling.commit(path, order);
    else if (touched && typeof draft === "number") handling.commit(path, inBase(draft, editor.scale));
    setTouched(false);
  };
  const leave = () => {
    setOpen(false);
    if (touched) handling.putBack();
    setTouched(false);
  };
  const choose = (value: unknown) => {
    setOpen(false);
    if (value !== word.value) handling.commit(path, value);
  };
  const keysOnWord = (event: KeyboardEvent) => {
    if (open) keys(event);
    const by = { ArrowUp: 1, ArrowDown: -1 }[event.key];
    if (by === undefined || editor.kind !== "number") return;
    event.preventDefault();
    const from = open && typeof draft === "number" ? draft : shown;
    const next = within(+(from + by * editor.step).toFixed(4), editor);
    setDraft(next);
    setOpen(true);
    setTouched(true);
    handling.preview(path, inBase(next, editor.scale));
  };
  const keys = (event: KeyboardEvent) => {
    event.stopPropagation();
    if (event.key === "Enter" && !(event.target as HTMLElement).closest("button:not(.word)")) {
      event.preventDefault();
      finish();
    } else if (event.key === "Escape") {
      event.preventDefault();
      leave();
    }
  };
  return (
    <>
      <button
        type="button"
        className={word.text.length > LONG ? "word long" : "word"}
        ref={setAnchor}
        data-path={path}
        aria-label={`${editor.label}: ${word.text}`}
        aria-haspopup="dialog"
        aria-expanded={open}
        onClick={() => (open ? finish() : begin())}
        onKeyDown={keysOnWord}
      >
        {word.text}
      </button>
      {open && (
        <Float anchor={anchor} label={editor.label} dismiss={finish} keys={keys}>
          {editor.kind === "order" ? (
            <OrderEditor editor={editor} value={order} change={reorder} />
          ) : isWritten(editor) ? (
            <WrittenEditor editor={editor} value={String(word.value)} commit={choose} />
          ) : editor.kind === "number" ? (
            <>
              <div className="number">
                <NumberInput
                  aria-label={editor.label}
                  value={draft}
                  onChange={change}
                  min={editor.minimum}
                  step={editor.step}
                  clampBehavior="blur"
                  size="sm"
                  w={120}
                  onFocus={(event) => event.currentTarget.select()}
                />
                <span>{editor.unit}</span>
              </div>
              {distribution && (
                <DistributionChart distribution={distribution} at={typeof draft === "number" ? draft : shown} />
              )}
              <Slider
                aria-label={`${editor.label}, slider`}
                value={typeof draft === "number" ? draft : shown}
                onChange={change}
                min={editor.minimum}
                max={distribution?.top ?? editor.maximum}
                step={editor.step}
                label={null}
                size="sm"
              />
              <p className="quiet hint">Enter keeps it, Esc puts it back</p>
            </>
          ) : (
            <div className="choices" role="listbox" aria-label={editor.label}>
              {(editor.choices ?? []).map((choice) => (
                <button
                  key={String(choice.value)}
                  type="button"
                  role="option"
                  aria-selected={choice.value === word.value}
                  onClick={() => choose(choice.value)}
                >
                  {choice.text}
                </button>
              ))}
            </div>
          )}
        </Float>
      )}
    </>
  );
}

interface FloatProps {
  anchor: HTMLElement | null;
  label: string;
  dismiss: () => void;
  keys: (event: KeyboardEvent) => void;
  children: ReactNode;
}

/** What floats beside a word, over the page rather than the strips: it holds the focus, and a press outside ends it. */
function Float({ anchor, label, dismiss, keys, children }: FloatProps) {
  const page = anchor?.closest(".left");
  const { refs, floatingStyles, context } = useFloating({
    open: true,
    elements: { reference: anchor },
    placement: "bottom-start",
    middleware: [offset(6), flip(), shift({ padding: 8, boundary: page ?? "clippingAncestors" })],
    whileElementsMounted: autoUpdate,
    onOpenChange: (stays) => {
      if (!stays) dismiss();
    },
  });
  const { getFloatingProps } = useInteractions([useDismiss(context, { escapeKey: false })]);
  return (
    <FloatingPortal>
      <FloatingFocusManager context={context} modal={false}>
        <div
          className="word-editor"
          role="dialog"
          aria-label={label}
          ref={refs.setFloating}
          style={floatingStyles}
          {...getFloatingProps({ onKeyDown: keys })}
        >
          {children}
        </div>
      </FloatingFocusManager>
    </FloatingPortal>
  );
}

/** A shown number in the base unit, without the dust of binary fractions. */
function inBase(shown: number, scale: number): number {
  return +(shown / scale).toPrecision(12);
}

function within(value: number, editor: Editor): number {
  return Math.min(Math.max(value, editor.minimum ?? 0), editor.maximum ?? value);
}
