import type { Numbers } from "../api/client";
import { clockText } from "../time/clock";
import its from "./strips.module.css";

const MOST_ROWS = 60;

export interface Column {
  title: string;
  values: Numbers;
  /** What a row that spans several of the strip's buckets has of them. */
  fold: keyof typeof FOLDS;
}

const FOLDS = {
  mean: (values: number[]) => +(values.reduce((sum, value) => sum + value, 0) / values.length).toPrecision(5),
  lowest: (values: number[]) => Math.min(...values),
  highest: (values: number[]) => Math.max(...values),
  last: (values: number[]) => values[values.length - 1] ?? 0,
};

/** The figures behind a strip in sixty rows at most, each of all that it spans; the last value of a row is that at its end. */
export function StripTable({ times, columns, zone }: { times: number[]; columns: Column[]; zone: string }) {
  const step = Math.max(1, Math.ceil(times.length / MOST_ROWS));
  const rows = times.map((time, k) => ({ time, k })).filter(({ k }) => k % step === 0);
  const told = (column: Column, k: number) => {
    const there = column.values.slice(k, k + step).filter((value) => value !== null);
    return there.length ? FOLDS[column.fold](there) : "none";
  };
  return (
    <table className={its.stripTable}>
      <thead>
        <tr>
          <th>{step > 1 ? "From, to the next" : "Time"}</th>
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
              <td key={column.title}>{told(column, k)}</td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}
