import { useMemo } from "react";
import { type Act, useOffered } from "../../shared/acts/acts";
import type { ArrangementLine, Rehearsed } from "../../shared/api/client";
import filesSheet from "../../shared/files/files.module.css";
import { FindingsLine } from "./FindingsLine";
import its from "./rehearse.module.css";
import { SaveAs } from "./SaveAs";

const FILES = [
  ["plan.yaml", "plan file"],
  ["calendar.ics", "calendar"],
  ["series.csv", "series"],
] as const;

interface Props {
  plan: number;
  planName: string | undefined;
  group: string;
  answer: Rehearsed | null;
  /** The newest arrangement. */
  newest: ArrangementLine | undefined;
  /** Lists the arrangements. */
  list: () => void;
  /** What words hold that was refused, and so is in no take; and the take at work once nothing is under way. */
  held: string[];
  settled: () => Promise<number | null>;
}

/** Whose page it is, how it is saved and handed on, and what is worth a look in it. */
export function PageHead({ plan, planName, group, answer, newest, list, held, settled }: Props) {
  const take = answer?.take.number;
  const address = (file: string) => `/api/plans/${plan}/groups/${group}/takes/${take}/${file}`;
  useOffered(
    useMemo(
      (): Act[] =>
        take === undefined
          ? []
          : [
              ...FILES.map(([file, text]) => ({
                group: "Do here",
                label: `Export as ${text}`,
                about: `Take ${take} as a file`,
                also: "download yaml csv ics",
                run: () => window.location.assign(`/api/plans/${plan}/groups/${group}/takes/${take}/${file}`),
              })),
              { group: "Do here", label: "Arrangements", about: "What was saved", also: "versions restore", run: list },
            ],
      [plan, group, take, list],
    ),
  );
  return (
    <>
      <div className={its.pageHead}>
        <h1>{group}</h1>
        {answer && newest && !answer.saved && (
          <SaveAs
            plan={plan}
            group={group}
            held={held}
            settled={settled}
            newest={newest.number}
            from={answer.take.arrangement}
            change={answer.take.change}
          />
        )}
      </div>
      <p className={`quiet ${its.where}`}>
        {planName}
        {newest && (
          <>
            {" · "}
            <button type="button" className="plain-button" onClick={list}>
              arrangement {newest.number}
            </button>
          </>
        )}
      </p>
      {answer && <FindingsLine sections={answer.page} />}
      {answer && (
        <p className={`${filesSheet.files} ${its.files}`}>
          Take {answer.take.number} as{" "}
          {FILES.map(([file, text], position) => (
            <span key={file}>
              {position > 0 && ", "}
              <a className="plain-button" href={address(file)} download>
                {text}
              </a>
            </span>
          ))}
        </p>
      )}
    </>
  );
}
