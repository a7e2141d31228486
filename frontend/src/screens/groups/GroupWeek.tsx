import type { GroupRow } from "../../shared/api/client";
import { Outline } from "../../shared/chart/Outline";
import { held } from "../../shared/words/units";
import its from "./groups.module.css";

/** What a group's week comes to: its outline, its cost, and what became of its promises. */
export function GroupWeek({ row }: { row: GroupRow }) {
  const errors = row.findings.error ?? 0;
  const warnings = row.findings.warning ?? 0;
  const found = [
    errors > 0 && `${errors} ${errors === 1 ? "error" : "errors"}`,
    warnings > 0 && `${warnings} ${warnings === 1 ? "warning" : "warnings"}`,
  ].filter(Boolean);
  return (
    <>
      <div>
        <Outline demand={row.demand} capacity={row.capacity} label={`Demand ${row.demand_name} against capacity`} />
        <div className={its.rowDays} aria-hidden>
          {row.days.map((day) => (
            <span key={day.at} style={{ left: `${(100 * (day.at - row.begin)) / (row.end - row.begin)}%` }}>
              {day.label}
            </span>
          ))}
        </div>
      </div>
      <div>
        <div className={its.cost}>{row.cost}</div>
        <span className="quiet">{row.demand_name}</span>
      </div>
      <ul aria-label="Promises">
        {row.promises.map((promise) => (
          <li key={promise.text} className={promise.kept ? undefined : its.broken}>
            {held(`${promise.kept ? "Kept" : "Broken"}: ${promise.text}; ${promise.measured}`)}
          </li>
        ))}
        {row.promises.length === 0 && <li>No promise made yet</li>}
        {found.length > 0 && (
          <li className={errors ? its.broken : its.doubtful} title={row.look ?? undefined}>
            <span className={its.look}>
              {found.join(", ")}: {row.look}
            </span>
          </li>
        )}
      </ul>
    </>
  );
}
