import { useCallback, useEffect, useRef, useState } from "react";
import { answered, api, type Band } from "../../shared/api/client";

const SEEDS = 20;
const AT_ONCE = 2;

export interface BandDesk {
  band: Band | null;
  /** Seeds played so far, while more are to come. */
  played: number | null;
  of: number;
  error: string | null;
  begin: () => void;
  end: () => void;
}

/** A take under many seeds, a few at a time so that it can be watched and cancelled. */
export function useBand(
  plan: number | undefined,
  group: string,
  take: number | null,
  span: { begin: number; end: number } | null,
  buckets: number,
): BandDesk {
  const [on, setOn] = useState(false);
  const [band, setBand] = useState<Band | null>(null);
  const [played, setPlayed] = useState<number | null>(null);
  const [error, setError] = useState<string | null>(null);
  const running = useRef<AbortController>(null);
  const [begin, end] = [span?.begin, span?.end];
  useEffect(() => {
    if (!on || plan === undefined || take === null || begin === undefined || end === undefined || buckets === 0) return;
    const stopper = new AbortController();
    running.current = stopper;
    const play = async () => {
      try {
        for (let seeds = AT_ONCE; seeds <= SEEDS; seeds += AT_ONCE) {
          const got = await answered(
            api.POST("/api/plans/{plan_id}/groups/{group}/bands", {
              params: { path: { plan_id: plan, group } },
              body: { take, seeds, begin, end, buckets },
              signal: stopper.signal,
            }),
          );
          if (stopper.signal.aborted) return;
          setBand(got);
          setPlayed(seeds < SEEDS ? seeds : null);
        }
        setError(null);
      } catch (cause) {
        if (stopper.signal.aborted) return;
        setPlayed(null);
        setError(cause instanceof Error ? cause.message : String(cause));
      }
    };
    setPlayed(0);
    void play();
    return () => stopper.abort();
  }, [on, plan, group, take, begin, end, buckets]);
  return {
    band: on ? band : null,
    played: on ? played : null,
    of: SEEDS,
    error,
    begin: useCallback(() => setOn(true), []),
    end: useCallback(() => {
      running.current?.abort();
      setOn(false);
      setBand(null);
      setPlayed(null);
    }, []),
  };
}
