import type { BandDesk } from "./useBand";
import its from "./verdict.module.css";

/** What a take comes to under many seeds, as one line; while they are played, how far they are. */
export function BandLine({ desk }: { desk: BandDesk }) {
  const { band, played, of } = desk;
  if (desk.error) return <p className="notice">{desk.error}</p>;
  if (!band && played === null) return null;
  return (
    <p className={its.bandLine} role="status">
      {played !== null ? (
        <>
          {played} of {of} seeds <progress value={played} max={of} aria-label="Seeds played" />{" "}
          <button type="button" className="plain-button" onClick={desk.end}>
            cancel
          </button>
        </>
      ) : null}
      {band?.text}
      {band?.spread.chance &&
        band.spread.promises.map((promise) => (
          <span key={promise.text} className={promise.kept < promise.of ? "worse" : "better"}>
            {" "}
            {promise.text}: kept under {promise.kept} of {promise.of}.
          </span>
        ))}
    </p>
  );
}
