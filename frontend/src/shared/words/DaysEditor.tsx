import { useState } from "react";
import type { Editor } from "../api/client";

export interface Days {
  days: string[];
  last: string | null;
}

interface Props {
  editor: Editor;
  change: (value: Days) => void;
}

/** The days of the week, each taken or left, and a last date. No day: it comes once. */
export function DaysEditor({ editor, change }: Props) {
  const [shown, setShown] = useState<Days>({ days: editor.chosen ?? [], last: editor.last ?? null });
  const put = (next: Days) => {
    setShown(next);
    change(next);
  };
  const all = (editor.choices ?? []).map((one) => String(one.value));
  return (
    <div className="days-editor">
      <div className="week">
        {(editor.choices ?? []).map((one) => {
          const day = String(one.value);
          const taken = shown.days.includes(day);
          const days = taken ? shown.days.filter((other) => other !== day) : [...shown.days, day];
          return (
            <button key={day} type="button" aria-pressed={taken} onClick={() => put({ ...shown, days })}>
              {one.text}
            </button>
          );
        })}
      </div>
      <p>
        <button type="button" className="plain-button" onClick={() => put({ ...shown, days: all })}>
          every day
        </button>{" "}
        <button type="button" className="plain-button" onClick={() => put({ days: [], last: null })}>
          once only
        </button>
      </p>
      <label>
        Last on{" "}
        <input
          className="wall-time"
          placeholder="no end; 2025-08-31"
          defaultValue={shown.last ?? ""}
          onChange={(event) => {
            const text = event.target.value.trim();
            if (text === "" || /^\d{4}-\d{2}-\d{2}$/.test(text)) put({ ...shown, last: text || null });
          }}
        />
      </label>
      <p className="quiet hint">Enter keeps it, Esc puts it back</p>
    </div>
  );
}
