import { useId, useState } from "react";
import type { Editor } from "../api/client";
import { useTyped } from "../api/useTyped";
import { TypedLine } from "./TypedLine";
import its from "./words.module.css";

export interface Days {
  days: string[];
  last: string | null;
}

interface Props {
  editor: Editor;
  change: (value: Days) => void;
  keep: (value: Days) => void;
}

/** The days of the week, each taken or left, and a last date. No day: it comes once. */
export function DaysEditor({ editor, change, keep }: Props) {
  const [shown, setShown] = useState<Days>({ days: editor.chosen ?? [], last: editor.last ?? null });
  const put = (next: Days) => {
    setShown(next);
    change(next);
  };
  const id = useId();
  const last = useTyped({ measure: "moment", now: editor.now ?? undefined }, shown.last ?? "", (reading) =>
    put({ ...shown, last: String(reading.value).slice(0, 10) }),
  );
  const all = (editor.choices ?? []).map((one) => String(one.value));
  return (
    <div className={its.daysEditor}>
      <div className={its.week}>
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
          className={its.wallTime}
          placeholder="no end; 31 Aug"
          aria-describedby={id}
          aria-invalid={last.refusal !== null}
          value={last.text}
          onKeyDown={async (event) => {
            if (event.key !== "Enter" || !last.text.trim()) return;
            event.preventDefault();
            event.stopPropagation();
            const meant = await last.settle();
            if (meant) keep({ ...shown, last: String(meant.value).slice(0, 10) });
          }}
          onChange={(event) => {
            if (event.target.value.trim()) last.type(event.target.value);
            else {
              last.put("", "");
              put({ ...shown, last: null });
            }
          }}
        />
        <TypedLine typed={last} id={id} />
      </label>
      <p className={`quiet ${its.hint}`}>Enter keeps it, Esc puts it back</p>
    </div>
  );
}
