import type { GroupLife } from "../../shared/api/client";
import its from "./live.module.css";

/** How far a group has come with the instances that are on their way, each with when it will be there, or why it is not. */
export function ProgressLine({ progress }: { progress: NonNullable<GroupLife["progress"]> }) {
  return (
    <details className={its.progress} open>
      <summary>
        <progress value={progress.share} max={1} aria-label="Serving" /> {progress.text}
      </summary>
      <ul>
        {progress.lines.map((line) => (
          <li key={line}>{line}</li>
        ))}
      </ul>
    </details>
  );
}
