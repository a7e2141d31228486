import type { Picture } from "../api/client";
import its from "../chart/strips.module.css";

/** Marks of the time axis, at round hours of the wall clock. */
export function TimeAxis({ picture }: { picture: Pick<Picture, "axis" | "begin" | "end"> }) {
  return (
    <div className={its.axis} aria-hidden>
      {picture.axis.map((mark) => (
        <span
          key={mark.at}
          className={mark.day ? its.day : undefined}
          style={{ left: `${(100 * (mark.at - picture.begin)) / (picture.end - picture.begin)}%` }}
        >
          {mark.label}
        </span>
      ))}
    </div>
  );
}
