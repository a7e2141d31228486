import type { BandDesk } from "./useBand";

/** What a take comes to under many seeds, as one line; while they are played, how far they are. */
export function BandLine({ desk }: { desk: BandDesk }) {
  const { band, played, of } = desk;
  if (desk.error) return <p className="notice">{desk.error}</p>;
  if (!band && played === null) return null;
  const range = (figure: string, say: (value: number) => string) => {
    const found = band?.spread.figures[figure];
    return found && `${say(found.lowest)} to ${say(found.highest)}`;
  };
  const money = (value: number) =>
    new Intl.NumberFormat("en-GB", { style: "currency", currency: band?.spread.currency ?? "EUR" }).format(value);
  return (
    <p className="band-line" role="status">
      {played !== null ? (
        <>
          {played} of {of} seeds <progress value={played} max={of} aria-label="Seeds played" />{" "}
          <button type="button" className="plain-button" onClick={desk.end}>
            cancel
          </button>
        </>
      ) : (
        <>Over {band?.seeds} seeds: </>
      )}
      {band && (
        <>
          {" "}
          cost {range("cost", money)}, short {range("short_minutes", (value) => value.toFixed(0))} min
          {band.spread.promises.map((promise) => (
            <span key={promise.text} className={promise.kept < promise.of ? "worse" : "better"}>
              ; {promise.text} kept under {promise.kept} of {promise.of}
            </span>
          ))}
          .
        </>
      )}
    </p>
  );
}
