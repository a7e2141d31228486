import { useId, useState } from "react";
import type { Editor } from "../api/client";
import { useTyped } from "../api/useTyped";
import { TypedLine } from "./TypedLine";
import its from "./words.module.css";

/** What is said of the days: those put in, those left out, and the last date where it was touched. */
export interface Days {
  in: string[];
  out: string[];
  last?: string | null;
}

interface Props {
  editor: Editor;
  change: (value: Days) => void;
  keep: (value: Days) => void;
}

/** The days of the week, each taken or left, and a last date. No day: it comes once. */
export function DaysEditor({ editor, change, keep }: Props) {
  const [said, setSaid] = useState<Days>({ in: [], out: [] });
  const put = (next: Days) => {
    setSaid(next);
    change(next);
  };
  const id = useId();
  const last = useTyped({ measure: "moment", now: editor.now ?? undefined }, editor.last ?? "", (reading) =>
    put({ ...said, last: String(reading.value).slice(0, 10) }),
  );
  const all = (editor.choices ?? []).map((one) => String(one.value));
  const taken = (day: string) =>
    said.in.includes(day) || ((editor.chosen ?? []).includes(day) && !said.out.includes(day));
  const turn = (day: string) => {
    const [here, there] = taken(day) ? (["out", "in"] as const) : (["in", "out"] as const);
    put({ ...said, [here]: [...said[here], day], [there]: said[there].filter((other) => other !== day) });
  };
  return (
    <div className={its.daysEditor}>
      <div className={its.week}>
        {(editor.choices ?? []).map((one) => {
          const day = String(one.value);
          return (
            <button key={day} type="button" aria-pressed={taken(day)} onClick={() => turn(day)}>
              {one.text}
            </button>
          );
        })}
      </div>
      <p>
        <button type="button" className="plain-button" onClick={() => put({ ...said, in: all, out: [] })}>
          every day
        </button>{" "}
        <button type="button" className="plain-button" onClick={() => put({ in: [], out: all, last: null })}>
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
            if (meant) keep({ ...said, last: String(meant.value).slice(0, 10) });
          }}
          onChange={(event) => {
            if (event.target.value.trim()) last.type(event.target.value);
            else {
              last.put("", "");
              put({ ...said, last: null });
            }
          }}
        />
        <TypedLine typed={last} id={id} />
      </label>
      <p className={`quiet ${its.hint}`}>Enter keeps it, Esc puts it back</p>
    </div>
  );
}
