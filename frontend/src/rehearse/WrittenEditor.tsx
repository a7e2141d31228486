import { useState } from "react";
import type { Editor } from "../api/client";

const INPUTS = { moment: "datetime-local", clock: "time", zone: "text", currency: "text", text: "text" } as const;
const NAMED = { zone: "timeZone", currency: "currency" } as const;
const LENGTHS: Partial<Record<Editor["kind"], number>> = { moment: 16, clock: 5 };

export function isWritten(editor: Editor): boolean {
  return editor.kind in INPUTS;
}

interface Props {
  editor: Editor;
  value: string;
  commit: (value: string) => void;
}

/** Something that is written, kept with Enter: a time on the wall, the name of a zone or of a currency, any text. */
export function WrittenEditor({ editor, value, commit }: Props) {
  const [draft, setDraft] = useState(value.slice(0, LENGTHS[editor.kind]));
  const names = NAMED[editor.kind as keyof typeof NAMED];
  return (
    <>
      <input
        className="wall-time"
        type={INPUTS[editor.kind as keyof typeof INPUTS]}
        list={names}
        aria-label={editor.label}
        value={draft}
        onChange={(event) => setDraft(event.target.value)}
        onKeyDown={(event) => {
          if (event.key !== "Enter" || draft === "") return;
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
      <p className="quiet hint">Enter keeps it, Esc puts it back</p>
    </>
  );
}
