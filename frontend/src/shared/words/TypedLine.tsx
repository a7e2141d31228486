import "./typed.css";
import type { Typed } from "../api/useTyped";

/** How what was typed is understood, or why it is not. */
export function TypedLine({ typed, id }: { typed: Typed; id: string }) {
  return (
    <output id={id} className={typed.refusal ? "typed-line refused" : "typed-line"}>
      {typed.refusal ?? (typed.reading && `= ${typed.reading.text}`)}
    </output>
  );
}
