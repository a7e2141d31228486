import type { Rehearsed } from "../../shared/api/client";
import { SeedWord } from "./SeedWord";
import type { BandDesk } from "./useBand";
import type { Desk } from "./useRehearsal";
import its from "./verdict.module.css";

interface Props {
  answer: Rehearsed;
  desk: Desk;
  band: BandDesk;
}

/** What the week was made from: the demand, the seed or many of them, and how long it took, or that it is still being made. */
export function MadeLine({ answer, desk, band }: Props) {
  return (
    <span className={`${its.made} quiet`}>
      {answer.demand} · <SeedWord seed={answer.seed} commit={(seed) => desk.commit([], seed)} /> ·{" "}
      <button type="button" className="plain-button" onClick={band.band ? band.end : band.begin}>
        {band.band ? "one seed" : `over ${band.of}`}
      </button>{" "}
      ·{" "}
      {desk.busy ? (
        <span role="status">
          rehearsing{" "}
          <button type="button" className="plain-button" onClick={desk.cancel}>
            cancel
          </button>
        </span>
      ) : (
        <>
          {answer.step && (
            <span title="The span is long: it is played in coarser steps here. Exports and the command line keep to the plan's">
              steps of {answer.step} ·{" "}
            </span>
          )}
          {answer.engine_ms.toFixed(0)} ms
        </>
      )}
    </span>
  );
}
