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
import { clsx } from "clsx";
import { type KeyboardEvent, type ReactNode, useEffect, useId, useRef, useState } from "react";
import type { Distribution, Editor, Reading, Word } from "../api/client";
import { useTyped } from "../api/useTyped";
import type { Handling } from "../gesture/handling";
import { type Days, DaysEditor } from "./DaysEditor";
import { DistributionChart } from "./DistributionChart";
import { OrderEditor } from "./OrderEditor";
import { TypedLine } from "./TypedLine";
import typedSheet from "./typed.module.css";
import { isWritten, WrittenEditor } from "./WrittenEditor";
import its from "./words.module.css";

interface Props {
  word: Word;
  editor: Editor;
  distribution: Distribution | undefined;
  handling: Handling;
}

const STEPS: Partial<Record<string, number>> = { ArrowUp: 1, ArrowDown: -1 };
// Longer words than this many letters break over lines.
const LONG = 30;

/** An underlined word of a sentence. It opens a small editor in place; up and down step it even when closed. */
export function WordEditor({ word, editor, distribution, handling }: Props) {
  const path = word.path ?? "";
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const [open, setOpen] = useState(false);
  const [draft, setDraft] = useState(0);
  const [touched, setTouched] = useState(false);
  const [refused, setRefused] = useState<string | null>(null);
  const keeping = useRef(false);
  const reading = useId();
  const varies = handling.vary?.paths.includes(path) === true;
  const vary = handling.vary && (
    <button type="button" className="plain-button" data-presses onClick={() => handling.vary?.toggle(path)}>
      {varies ? "let it be as it is" : "let this vary"}
    </button>
  );
  const shown = typeof word.value === "number" ? inShown(word.value, editor.scale) : 0;
  const typed = useTyped({ measure: editor.measure, unit: editor.unit }, "", ({ value }) => preview(Number(value)));

  const holds = (said: string | null) => {
    setRefused(said);
    handling.holds?.(path, said && `${editor.label}: ${said}`);
  };
  const told = useRef(handling);
  told.current = handling;
  useEffect(() => () => told.current.holds?.(path, null), [path]);
  const tries = (value: unknown) => {
    setTouched(true);
    holds(null);
    handling.preview(path, value);
  };
  const preview = (value: number) => {
    setDraft(inShown(value, editor.scale));
    tries(value);
  };
  const slide = (next: number) => {
    if (next === draft) return;
    const value = inBase(next, editor.scale);
    typed.put(written(next, editor), value);
    preview(value);
  };
  const begin = () => {
    setDraft(shown);
    typed.put(written(shown, editor), typeof word.value === "number" ? word.value : shown);
    if (Array.isArray(word.value)) setOrder(word.value);
    setTouched(false);
    setOpen(true);
  };
  const [order, setOrder] = useState<string[]>([]);
  const reorder = (next: string[]) => {
    setOrder(next);
    tries(next);
  };
  const [days, setDays] = useState<Days | null>(null);
  const chooseDays = (next: Days) => {
    setDays(next);
    tries(next);
  };
  const close = () => {
    setOpen(false);
    setTouched(false);
    holds(null);
  };
  const keep = async (value: unknown) => {
    if (keeping.current) return;
    keeping.current = true;
    const said = await handling.commit(path, value);
    keeping.current = false;
    if (said === null) close();
    else holds(said);
  };
  const finish = () => {
    const edit = end();
    handling.begins?.(edit);
    return edit;
  };
  const end = async () => {
    // What was refused as it stands is not asked for again.
    if (refused !== null) return;
    if (editor.kind === "order" && touched) await keep(order);
    else if (editor.kind === "days" && touched) await keep(days);
    else if (editor.kind === "number" && (touched || typed.refusal || typed.text !== written(shown, editor))) {
      const meant: Reading | null = await typed.settle();
      if (meant) await keep(meant.value);
      else holds(`${typed.text} cannot be read`);
    } else close();
  };
  const leave = () => {
    if (touched) handling.putBack();
    close();
  };
  const choose = (value: unknown) => {
    if (value === word.value) close();
    else void keep(value);
  };
  const step = (by: number) => slide(within(+((open ? draft : shown) + by * editor.step).toFixed(4), editor));
  const press = () => (open ? void finish() : begin());
  const keysOnWord = (event: KeyboardEvent) => {
    if (open) keys(event);
    else if (event.key === "Enter" || event.key === " ") {
      event.preventDefault();
      press();
    }
    const by = STEPS[event.key];
    if (by === undefined || editor.kind !== "number") return;
    event.preventDefault();
    step(by);
    setOpen(true);
  };
  const keysInField = (event: KeyboardEvent) => {
    const by = STEPS[event.key];
    if (by === undefined) return;
    event.preventDefault();
    event.stopPropagation();
    step(by);
  };
  const keys = (event: KeyboardEvent) => {
    event.stopPropagation();
    if (event.key === "Enter" && !(event.target as HTMLElement).closest("[role=option], [data-presses]")) {
      event.preventDefault();
      void finish();
    } else if (event.key === "Escape") {
      event.preventDefault();
      leave();
    }
  };
  return (
    <>
      {/* biome-ignore lint/a11y/useSemanticElements: a button is one box, but a word that grows long breaks like text */}
      <span
        role="button"
        tabIndex={0}
        className={clsx(its.word, word.text.length > LONG && its.long, varies && its.varies, refused && its.refused)}
        ref={setAnchor}
        data-path={path}
        aria-label={`${editor.label}: ${word.text}`}
        aria-haspopup="dialog"
        aria-expanded={open}
        aria-invalid={refused !== null}
        onClick={press}
        onKeyDown={keysOnWord}
      >
        {word.text}
      </span>
      {open && (
        <Float anchor={anchor} label={editor.label} dismiss={() => void finish()} keys={keys}>
          {editor.kind === "order" ? (
            <OrderEditor editor={editor} value={order} change={reorder} />
          ) : editor.kind === "days" ? (
            <DaysEditor editor={editor} change={chooseDays} keep={keep} />
          ) : isWritten(editor) ? (
            <WrittenEditor editor={editor} value={word.value === null ? "" : String(word.value)} commit={choose} />
          ) : editor.kind === "number" ? (
            <>
              <div className={its.number}>
                <input
                  className={`${its.wallTime} ${typedSheet.typed}`}
                  aria-label={editor.label}
                  aria-describedby={reading}
                  aria-invalid={typed.refusal !== null}
                  autoComplete="off"
                  value={typed.text}
                  onChange={(event) => {
                    holds(null);
                    typed.type(event.target.value);
                  }}
                  onKeyDown={keysInField}
                  onFocus={(event) => event.currentTarget.select()}
                />
                <span>{isPlain(editor) && editor.unit}</span>
              </div>
              <TypedLine typed={typed} id={reading} />
              {editor.hint && <p className={`quiet ${its.hint}`}>{editor.hint}</p>}
              {distribution && <DistributionChart distribution={distribution} at={draft} />}
              <input
                type="range"
                aria-label={`${editor.label}, slider`}
                value={draft}
                onChange={(event) => slide(+event.target.value)}
                min={editor.minimum}
                max={distribution?.top ?? editor.maximum}
                step={editor.step}
              />
              <p className={`quiet ${its.hint}`}>Enter keeps it, Esc puts it back</p>
              {vary}
            </>
          ) : (
            <div className={its.choices} role="listbox" aria-label={editor.label}>
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
              {editor.varies && vary}
            </div>
          )}
          {refused && typed.refusal === null && (
            <p className="wrong" role="alert">
              {refused}
            </p>
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
  const page = anchor?.closest("[data-page]");
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

/** Whether a number stands for itself, its unit being a word beside the field. */
function isPlain(editor: Editor): boolean {
  return editor.measure === "number" || editor.measure === "money";
}

/** A shown number as it stands in the field, with its unit. */
function written(shown: number, editor: Editor): string {
  if (isPlain(editor) || editor.unit === "") return String(shown);
  return `${shown}${editor.unit.startsWith("/") ? "" : " "}${editor.unit}`;
}

function inShown(value: number, scale: number): number {
  return +(value * scale).toFixed(4);
}

/** A shown number in the base unit, without the dust of binary fractions. */
function inBase(shown: number, scale: number): number {
  return +(shown / scale).toPrecision(12);
}

function within(value: number, editor: Editor): number {
  return Math.min(Math.max(value, editor.minimum ?? 0), editor.maximum ?? value);
}
