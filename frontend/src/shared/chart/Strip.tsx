import { clsx } from "clsx";
import { type KeyboardEvent, type ReactNode, type RefObject, useMemo, useState } from "react";
import { useOffered } from "../acts/acts";
import { goTo } from "../acts/goTo";
import { Dialog } from "../dialog/Dialog";
import { type Column, StripTable } from "./StripTable";
import its from "./strips.module.css";

export interface StripFrame {
  folded: boolean;
  fold: () => void;
  move: (by: -1 | 1) => void;
}

interface Props {
  name: string;
  title: ReactNode;
  says: string;
  frame: StripFrame;
  weight?: number;
  chart: RefObject<HTMLDivElement | null>;
  scale: { at: number; text: string }[];
  columns: Column[];
  times: number[];
  zone: string;
  /** What stands among the tools of this strip alone. */
  tools?: ReactNode;
  /** Takes the strip away, where it was added. */
  drop?: (() => void) | undefined;
  children?: ReactNode;
}

/** One strip: its heading with a summary in words, its chart with a scale, and the table behind it. */
export function Strip(props: Props) {
  const { name, frame } = props;
  const [table, setTable] = useState(false);
  const { says } = props;
  useOffered(
    useMemo(
      () => [{ group: "Strips", label: name, about: says, run: () => goTo(`[data-strip="${name}"]`) }],
      [name, says],
    ),
  );
  const moveByKey = (event: KeyboardEvent) => {
    if (!event.altKey || (event.key !== "ArrowUp" && event.key !== "ArrowDown")) return;
    event.preventDefault();
    event.stopPropagation();
    frame.move(event.key === "ArrowUp" ? -1 : 1);
  };
  return (
    <section
      className={frame.folded ? `${its.strip} ${its.folded}` : its.strip}
      style={{ flexGrow: frame.folded ? 0 : (props.weight ?? 1) }}
      aria-label={name}
      data-strip={name}
    >
      <div className={its.stripHead}>
        <button
          type="button"
          className={its.title}
          aria-expanded={!frame.folded}
          title="Fold or unfold; Alt with an arrow key moves it"
          onClick={frame.fold}
          onKeyDown={moveByKey}
        >
          {props.title}
        </button>
        <span className={its.says}>{props.says}</span>
        <span className={its.tools}>
          {props.tools}
          {props.drop && (
            <button type="button" aria-label={`Take ${name} away`} onClick={props.drop}>
              ×
            </button>
          )}
          <button type="button" aria-label={`Move ${name} up`} onClick={() => frame.move(-1)}>
            ↑
          </button>
          <button type="button" aria-label={`Move ${name} down`} onClick={() => frame.move(1)}>
            ↓
          </button>
          <button type="button" aria-label={`${name} as a table`} onClick={() => setTable(true)}>
            table
          </button>
        </span>
      </div>
      {!frame.folded && (
        <div className={its.plot}>
          <div className={its.chart} ref={props.chart} aria-hidden />
          {props.scale.map(({ at, text }) => (
            <span
              key={at}
              className={clsx(its.scale, at <= 0 && its.first, at >= 1 && its.last)}
              style={{ top: `${100 - at * 100}%` }}
            >
              {text}
            </span>
          ))}
          {props.children}
        </div>
      )}
      <Dialog opened={table} close={() => setTable(false)} title={`${name}, ${props.zone}`} size="xl">
        {table && <StripTable times={props.times} columns={props.columns} zone={props.zone} />}
      </Dialog>
    </section>
  );
}

/** Marks of a scale from 0 to `top`: its ends and its middle. */
export function scaleTo(top: number, unit = ""): { at: number; text: string }[] {
  const say = (value: number) =>
    (value >= 10_000 ? `${+(value / 1000).toPrecision(3)}k` : `${+value.toPrecision(3)}`) + unit;
  return [
    { at: 0, text: "0" },
    { at: 0.5, text: say(top / 2) },
    { at: 1, text: say(top) },
  ];
}
