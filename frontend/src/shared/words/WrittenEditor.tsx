import { useId, useState } from "react";
import type { Editor } from "../api/client";
import { useTyped } from "../api/useTyped";
import { TypedLine } from "./TypedLine";
import its from "./words.module.css";

const NAMED = { zone: "timeZone", currency: "currency" } as const;
const TIMES: Editor["kind"][] = ["moment", "clock"];

export function isWritten(editor: Editor): boolean {
  return TIMES.includes(editor.kind) || editor.kind in NAMED || editor.kind === "text";
}

interface Props {
  editor: Editor;
  value: string;
  commit: (value: string) => void;
}

/** Something that is written, kept with Enter: a time on the wall, the name of a zone or of a currency, any text. */
export function WrittenEditor(props: Props) {
  return TIMES.includes(props.editor.kind) ? <TimeField {...props} /> : <TextField {...props} />;
}

function TextField({ editor, value, commit }: Props) {
  const [draft, setDraft] = useState(value);
  const names = NAMED[editor.kind as keyof typeof NAMED];
  return (
    <>
      <input
        className={its.wallTime}
        list={names}
        aria-label={editor.label}
        value={draft}
        onChange={(event) => setDraft(event.target.value)}
        onKeyDown={(event) => {
          if (event.key !== "Enter" || (draft === "" && !editor.blank)) return;
          event.preventDefault();
          event.stopPropagation();
          commit(draft);
        }}
      />
      {names && (
        <datalist id={names}>
          {Intl.supportedValuesOf(names).map((name) => (
            <option key={name} value={name} />
          ))}
        </datalist>
      )}
      <p className={`quiet ${its.hint}`}>Enter keeps it, Esc puts it back</p>
    </>
  );
}

/** A time of day or a moment, by 24 hours; of a moment the date or the time may be typed alone. */
function TimeField({ editor, value, commit }: Props) {
  const id = useId();
  const typed = useTyped(
    { measure: editor.kind === "clock" ? "clock" : "moment", now: value || undefined },
    plainTime(value),
  );
  const keep = async () => {
    if (typed.text === "" && editor.blank) {
      commit("");
      return;
    }
    const meant = await typed.settle();
    if (meant) commit(String(meant.value));
  };
  return (
    <>
      <input
        className={its.wallTime}
        aria-label={editor.label}
        aria-describedby={id}
        aria-invalid={typed.refusal !== null}
        autoComplete="off"
        value={typed.text}
        onChange={(event) => typed.type(event.target.value)}
        onFocus={(event) => event.currentTarget.select()}
        onKeyDown={(event) => {
          if (event.key !== "Enter") return;
          event.preventDefault();
          event.stopPropagation();
          void keep();
        }}
      />
      <TypedLine typed={typed} id={id} />
      <p className={`quiet ${its.hint}`}>
        {editor.kind === "moment" && "A date or a time alone leaves the other. "}Enter keeps it, Esc puts it back
      </p>
    </>
  );
}

/** `2025-07-10 12:00` of an ISO 8601 time, `12:00` of a time of day. */
function plainTime(value: string): string {
  return value.replace("T", " ").replace(/(:\d\d):00$/, "$1");
}
