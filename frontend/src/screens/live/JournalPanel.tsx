import type { LiveView } from "../../shared/api/client";
import { Choice } from "../../shared/words/Choice";
import its from "./live.module.css";
import { HOURS } from "./useLive";

interface Props {
  lines: LiveView["journal"];
  groups: string[];
  of: string | null;
  only: boolean;
  /** Only what happened before, ms; up to now if left out. */
  before: number | null;
  choose: (chosen: Record<string, string | number | null>) => void;
}

const ALL = "all groups";

/** What happened, newest first; each change and each silence leads to its moment. */
export function JournalPanel({ lines, groups, of, only, before, choose }: Props) {
  const oldest = lines.at(-1)?.at ?? (before === null ? null : before - HOURS * 3_600_000);
  return (
    <section className={its.journal} aria-label="Journal">
      <div className={its.journalHead}>
        <h2>Journal</h2>
        <Choice
          label="Of which groups"
          value={of ?? ALL}
          options={[ALL, ...groups]}
          set={(name) => choose({ of: name === ALL ? null : name })}
        />
        <button
          type="button"
          className="plain-button"
          aria-pressed={only}
          onClick={() => choose({ only: only ? null : "changes" })}
        >
          {only ? "everything" : "only changes"}
        </button>
        <button type="button" className="plain-button" onClick={() => choose({ told: "notices" })}>
          notices
        </button>
      </div>
      <ol aria-live="off">
        {lines.map((line) => (
          <li key={line.key}>
            <time>{line.clock}</time>
            <span>
              <b>{line.group}</b> {line.text}
            </span>
            {line.why && (
              <button
                type="button"
                className="plain-button"
                aria-label={`Why, at ${line.clock}`}
                onClick={() => choose({ group: line.group, why: line.at })}
              >
                why
              </button>
            )}
          </li>
        ))}
      </ol>
      {lines.length === 0 && (
        <p className="quiet">
          Nothing happened in the {before === null ? `last ${HOURS} hours` : `${HOURS} hours before`}.
        </p>
      )}
      <p>
        <button type="button" className="plain-button" onClick={() => choose({ before: oldest })} disabled={!oldest}>
          what was before
        </button>{" "}
        {before !== null && (
          <button type="button" className="plain-button" onClick={() => choose({ before: null })}>
            back to now
          </button>
        )}
      </p>
    </section>
  );
}
