import type { LiveView } from "../../shared/api/client";
import its from "./live.module.css";
import type { useLive } from "./useLive";

const PACES = [1, 10, 60, 600, 3600];

/** The stand-in's clock: what it shows, how fast it goes, and steps. */
export function ClockBar({ view, live }: { view: LiveView; live: ReturnType<typeof useLive> }) {
  const { clock, step, lost, asOf } = live;
  return (
    <section className={its.clock} aria-label="Clock">
      {asOf === null ? (
        <time>{view.clock}</time>
      ) : (
        <b className="wrong" role="status">
          {asOf}
        </b>
      )}
      <span className="quiet">on the stand-in, at</span>
      <button
        type="button"
        className={its.pace}
        aria-pressed={!view.running}
        onClick={() => clock.mutate({ running: false })}
      >
        pause
      </button>
      {PACES.map((pace) => (
        <button
          key={pace}
          type="button"
          className={its.pace}
          title={`${pace} of its seconds in one of ours`}
          aria-pressed={view.running && view.pace === pace}
          onClick={() => clock.mutate({ pace, running: true })}
        >
          {pace}×
        </button>
      ))}
      <button
        type="button"
        className="plain-button"
        disabled={step.isPending}
        onClick={() => step.mutate({ to: "next change" })}
      >
        to the next change
      </button>
      <button
        type="button"
        className="plain-button"
        disabled={step.isPending}
        onClick={() => step.mutate({ by: 3600 })}
      >
        an hour on
      </button>
      {(step.error ?? clock.error) && <span className="wrong">{(step.error ?? clock.error)?.message}</span>}
      {lost && (
        <span className="wrong" role="status">
          The stream is lost; it is caught up when the server is back.
        </span>
      )}
      {view.trouble && <span className="wrong">{view.trouble}</span>}
      <span className={its.spent}>
        since {view.begun} <b>{view.cost}</b>
      </span>
    </section>
  );
}
