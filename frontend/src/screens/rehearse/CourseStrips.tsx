import type { Course, CourseStrip, Numbers } from "../../shared/api/client";
import { clockText } from "../../shared/time/clock";
import its from "./course.module.css";

const HEIGHT = 44;

/** What one instance did over its life: each series with its spread in a bucket as an area, and its mean as a line. */
export function CourseStrips({ course, zone }: { course: Course; zone: string }) {
  return (
    <div className={its.course}>
      {course.strips.map((strip) => (
        <One key={strip.label} strip={strip} />
      ))}
      <p className={its.ends}>
        <span>{clockText(course.begin, zone)}</span>
        <span>{clockText(course.end, zone)}</span>
      </p>
    </div>
  );
}

function One({ strip }: { strip: CourseStrip }) {
  const last = Math.max(1, strip.mean.length - 1);
  return (
    <figure>
      <figcaption>
        {strip.label} <small className="quiet">{strip.most}</small>
      </figcaption>
      <svg
        viewBox={`0 0 ${last} ${HEIGHT}`}
        preserveAspectRatio="none"
        role="img"
        aria-label={`${strip.label}, ${strip.most}`}
      >
        <path d={bars(strip)} className={its.spread} vectorEffect="non-scaling-stroke" />
        <path d={line(strip.mean, strip.top)} className={its.mean} vectorEffect="non-scaling-stroke" />
        <path d={`M0,${HEIGHT - 0.5}H${last}`} className={its.ground} vectorEffect="non-scaling-stroke" />
      </svg>
    </figure>
  );
}

function at(value: number, top: number): string {
  return (HEIGHT - (value / top) * (HEIGHT - 3)).toFixed(1);
}

function bars(strip: CourseStrip): string {
  return strip.high
    .map((high, k) => {
      const low = strip.low[k];
      return high === null || low === null || low === undefined
        ? ""
        : `M${k},${at(low, strip.top)}V${at(high, strip.top)}`;
    })
    .join("");
}

function line(values: Numbers, top: number): string {
  let pen = "M";
  return values
    .map((value, k) => {
      if (value === null) {
        pen = "M";
        return "";
      }
      const step = `${pen}${k},${at(value, top)}`;
      pen = "L";
      return step;
    })
    .join("");
}
