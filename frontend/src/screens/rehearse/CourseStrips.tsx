import type { Course, CourseStrip } from "../../shared/api/client";
import { SpreadLine } from "../../shared/chart/SpreadLine";
import { clockText } from "../../shared/time/clock";
import its from "./course.module.css";

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
  return (
    <figure>
      <figcaption>
        {strip.label} <small className="quiet">{strip.most}</small>
      </figcaption>
      <SpreadLine {...strip} height={44} ink="indigo" label={`${strip.label}, ${strip.most}`} />
    </figure>
  );
}
