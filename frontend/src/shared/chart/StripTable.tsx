import type { Numbers } from "../api/client";
import { clockText } from "../time/clock";

const MOST_ROWS = 60;

export interface Column {
  title: string;
  values: Numbers;
}

/** The figures behind a strip: at most sixty rows, evenly chosen. */
export function StripTable({ times, columns, zone }: { times: number[]; columns: Column[]; zone: string }) {
  const step = Math.max(1, Math.ceil(times.length / MOST_ROWS));
  const rows = times.map((time, k) => ({ time, k })).filter(({ k }) => k % step === 0);
  return (
    <table className="strip-table">
      <thead>
        <tr>
          <th>Time</th>
          {columns.map((column) => (
            <th key={column.title}>{column.title}</th>
          ))}
        </tr>
      </thead>
      <tbody>
        {rows.map(({ time, k }) => (
          <tr key={time}>
            <td>{clockText(time, zone)}</td>
            {columns.map((column) => (
              <td key={column.title}>{column.values[k] ?? "none"}</td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}
