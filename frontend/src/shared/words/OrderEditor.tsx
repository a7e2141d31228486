import { type KeyboardEvent, useState } from "react";
import type { Editor } from "../api/client";
import its from "./words.module.css";

interface Props {
  editor: Editor;
  value: string[];
  change: (value: string[]) => void;
}

/** A list put in order by dragging its lines, or with Alt and the arrow keys; lines are taken out and in. */
export function OrderEditor({ editor, value, change }: Props) {
  const [dragged, setDragged] = useState<string | null>(null);
  const known = editor.choices ?? [];
  const text = (one: string) => known.find((choice) => choice.value === one)?.text ?? one;
  const hint = (one: string) => known.find((choice) => choice.value === one)?.hint;
  const put = (one: string, to: number) => {
    const rest = value.filter((other) => other !== one);
    rest.splice(Math.min(Math.max(to, 0), rest.length), 0, one);
    if (rest.join() !== value.join()) change(rest);
  };
  const key = (event: KeyboardEvent, one: string) => {
    const by = { ArrowUp: -1, ArrowDown: 1 }[event.key];
    if (event.key === "Delete") change(value.filter((other) => other !== one));
    else if (by !== undefined && event.altKey) put(one, value.indexOf(one) + by);
    else return;
    event.preventDefault();
    event.stopPropagation();
  };
  return (
    <div className={its.orderEditor}>
      <ol>
        {value.map((one) => (
          <li
            key={one}
            draggable
            onDragStart={() => setDragged(one)}
            onDragOver={(event) => {
              event.preventDefault();
              if (dragged) put(dragged, value.indexOf(one));
            }}
            onDragEnd={() => setDragged(null)}
          >
            <button
              type="button"
              title="Drag it, or Alt with an arrow key; Delete takes it out"
              onKeyDown={(e) => key(e, one)}
            >
              {text(one)}
            </button>
            <button type="button" aria-label={`${text(one)} earlier`} onClick={() => put(one, value.indexOf(one) - 1)}>
              ↑
            </button>
            <button type="button" aria-label={`${text(one)} later`} onClick={() => put(one, value.indexOf(one) + 1)}>
              ↓
            </button>
            <button
              type="button"
              aria-label={`without ${text(one)}`}
              onClick={() => change(value.filter((other) => other !== one))}
            >
              ×
            </button>
            <small className="quiet">{hint(one)}</small>
          </li>
        ))}
      </ol>
      <p className="quiet">
        then{" "}
        {known
          .filter((choice) => !value.includes(String(choice.value)))
          .map((choice) => (
            <button
              key={choice.text}
              type="button"
              className="plain-button"
              title={choice.hint}
              onClick={() => change([...value, String(choice.value)])}
            >
              {choice.text}
            </button>
          ))}
      </p>
      <p className={`quiet ${its.hint}`}>Enter keeps it, Esc puts it back</p>
    </div>
  );
}
