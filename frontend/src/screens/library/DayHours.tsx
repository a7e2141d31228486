import its from "./library.module.css";
export const DAY = 86_400;
/** The step of times that are drawn on a day, s. */
export const GRID = 15 * 60;
/** Width and height of a day's drawing, in units of its own. */
export const WIDTH = 1000;
export const HEIGHT = 100;

const HOURS = Array.from({ length: 23 }, (_, k) => k + 1);

/** Seconds from midnight as the wall clock shows them. */
export function clock(seconds: number): string {
  const minutes = Math.round(seconds / 60);
  return `${String(Math.floor(minutes / 60)).padStart(2, "0")}:${String(minutes % 60).padStart(2, "0")}`;
}

export function HourLines() {
  return HOURS.map((hour) => {
    const x = (WIDTH * hour) / 24;
    return <line key={hour} x1={x} x2={x} y1="0" y2={HEIGHT} className={hour % 6 === 0 ? its.day : undefined} />;
  });
}

export function HourLabels() {
  return [6, 12, 18].map((hour) => (
    <span key={hour} className={its.hour} style={{ left: `${(100 * hour) / 24}%` }} aria-hidden>
      {clock(hour * 3600)}
    </span>
  ));
}
