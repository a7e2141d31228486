import type { Typed } from "../api/useTyped";
import its from "./typed.module.css";

/** How what was typed is understood, or why it is not. */
export function TypedLine({ typed, id }: { typed: Typed; id: string }) {
  return (
    <output id={id} className={typed.refusal ? `${its.typedLine} ${its.refused}` : its.typedLine}>
      {typed.refusal ?? (typed.reading && `= ${typed.reading.text}`)}
    </output>
  );
}
