import { useEffect, useId, useRef } from "react";
import { flushSync } from "react-dom";
import { type How, useTyped } from "../api/useTyped";
import { TypedLine } from "./TypedLine";
import its from "./typed.module.css";

interface Props {
  label: string;
  how: How;
  /** What stands in the blank at first; a new one is put when `what` changes. */
  first: string;
  /** Whether what is typed goes here at once. */
  focus?: boolean;
  /** The value as it is understood, and how it is said; nothing where it cannot be read. */
  set: (value: number | null, text: string) => void;
}

/** A blank in a sentence for a number that is typed as people type it. */
export function TypedBlank({ label, how, first, focus, set }: Props) {
  const id = useId();
  const typed = useTyped(how, first, (reading) => set(Number(reading.value), reading.text));
  const field = useRef<HTMLInputElement>(null);
  useEffect(() => {
    if (focus) field.current?.focus();
  }, [focus]);
  const wanted = useRef(set);
  wanted.current = set;
  useEffect(() => {
    if (typed.refusal) wanted.current(null, "");
  }, [typed.refusal]);
  return (
    <span className={its.blank}>
      <input
        ref={field}
        aria-label={label}
        aria-describedby={id}
        aria-invalid={typed.refusal !== null}
        inputMode="text"
        size={Math.max(4, typed.text.length)}
        value={typed.text}
        onChange={(event) => typed.type(event.target.value)}
        onFocus={(event) => event.currentTarget.select()}
        onKeyDown={async (event) => {
          if (event.key !== "Enter") return;
          // What was typed last is read before the sentence is sent.
          event.preventDefault();
          const { form } = event.currentTarget;
          const meant = await typed.settle();
          if (!meant) return;
          flushSync(() => set(Number(meant.value), meant.text));
          form?.requestSubmit();
        }}
      />
      <TypedLine typed={typed} id={id} />
    </span>
  );
}
