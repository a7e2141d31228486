import type { CostCurve, CostsView } from "../../shared/api/client";
import its from "./costs.module.css";
import { tone } from "./tone";

const WEEK = ["Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"];

interface Props {
  view: CostsView;
  curve: CostCurve | undefined;
  choose: (begin: string, end: string) => void;
}

function course(values: (number | null)[]): string {
  const top = Math.max(1, ...values.map((value) => value ?? 0));
  return values.map((value, k) => `${k ? "L" : "M"}${k},${(20 - ((value ?? 0) / top) * 18).toFixed(1)}`).join("");
}

/** The days as a calendar: what each cost, how the count went, and whose it was; those to come as they are likely. */
export function DaysGrid({ view, curve, choose }: Props) {
  const first = view.days[0]?.column ?? 0;
  const likely = (date: string) => curve?.likely_by_day[curve.days.indexOf(date)] ?? "";
  return (
    <section className={its.grid} aria-label="Days">
      {WEEK.map((day) => (
        <span key={day} className={its.weekday}>
          {day}
        </span>
      ))}
      {view.days.map((day, place) => {
        const inside = day.date >= view.begin && day.date <= view.end;
        return (
          <button
            key={day.date}
            type="button"
            className={`${its.day} ${day.lived ? "" : its.likely}`}
            style={place === 0 ? { gridColumnStart: first + 1 } : undefined}
            disabled={!day.lived}
            aria-pressed={inside && view.begin === view.end}
            aria-label={`${day.label} ${day.lived ? day.cost : likely(day.date)}${day.lived ? "" : " is likely"}, ${day.date}`}
            title={day.lived ? "With Shift, from the day chosen to this one" : "Likely, from here on"}
            onClick={(event) =>
              event.shiftKey && day.date > view.begin ? choose(view.begin, day.date) : choose(day.date, day.date)
            }
          >
            <span>
              {day.label} <b>{day.lived ? day.cost : likely(day.date)}</b>
            </span>
            {day.course.length > 1 && (
              <svg viewBox={`0 0 ${day.course.length - 1} 22`} preserveAspectRatio="none" aria-hidden>
                <path d={course(day.course)} vectorEffect="non-scaling-stroke" />
              </svg>
            )}
            {day.lived && (
              <i aria-hidden>
                {day.shares.map((share, group) => (
                  <em
                    key={view.groups[group]}
                    style={{ ...tone(group, view.groups.length), width: `${share * 100}%` }}
                  />
                ))}
              </i>
            )}
          </button>
        );
      })}
    </section>
  );
}
