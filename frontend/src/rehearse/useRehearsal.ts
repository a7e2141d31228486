import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import { answered, api, type Change, Refusal, type Rehearsed } from "../api/client";

export interface Span {
  begin: number;
  end: number;
}

interface Wanted {
  take: number | null;
  changes: Change[];
  seed: number | null;
  keep: boolean;
  span: Span | null;
  edited: number | null;
}

export interface Desk {
  answer: Rehearsed | null;
  error: string | null;
  busy: boolean;
  /** Shows what changes to the take would bring, without keeping it. */
  preview: (changes: Change[], seed?: number) => void;
  /** Keeps changes as the next take. */
  commit: (changes: Change[], seed?: number) => void;
  /** Drops what is not kept. */
  putBack: () => void;
  goTo: (take: number) => void;
  look: (begin: number, end: number) => void;
  changes: Change[];
}

const LEAST_SPAN = 10 * 60_000;
const RETRY_AFTER = 2000;

/**
 * The take at work with the edits on it. One request is under way at a time; while it is, only the newest wish waits.
 * A kept edit is never dropped for a newer wish.
 */
export function useRehearsal(
  planId: number | undefined,
  group: string,
  buckets: number,
  first: { take: number | null; span: Span | null },
): Desk {
  const [answer, setAnswer] = useState<Rehearsed | null>(null);
  const [error, setError] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const [changes, setChanges] = useState<Change[]>([]);
  const [lost, setLost] = useState(0);
  const wish = useRef<Wanted>({
    take: first.take,
    changes: [],
    seed: null,
    keep: false,
    span: first.span,
    edited: null,
  });
  const queue = useRef<Wanted[]>([]);
  const running = useRef(false);
  const whole = useRef<Span | null>(null);
  const edited = useRef<number | null>(null);
  const queries = useQueryClient();

  const run = useCallback(async () => {
    if (running.current || planId === undefined || buckets === 0) return;
    running.current = true;
    const slow = setTimeout(() => setBusy(true), 300);
    for (let next = queue.current.shift(); next; next = queue.current.shift()) {
      try {
        const got = await answered(
          api.POST("/api/plans/{plan_id}/groups/{group}/rehearsals", {
            params: { path: { plan_id: planId, group } },
            body: {
              take: next.take,
              changes: next.changes,
              seed: next.seed,
              keep: next.keep,
              begin: next.span?.begin ?? null,
              end: next.span?.end ?? null,
              buckets,
            },
          }),
        );
        whole.current = got.picture.whole;
        if (next.keep) {
          wish.current = { ...wish.current, take: got.take.number, changes: [], seed: null };
          setChanges([]);
          await queries.invalidateQueries({ queryKey: ["takes", planId, group] });
          for (const waiting of queue.current) waiting.take = got.take.number;
        } else if (wish.current.take === null) wish.current.take = got.take.number;
        setError(null);
        setAnswer(got);
        edited.current = next.edited;
      } catch (cause) {
        setError(cause instanceof Error ? cause.message : String(cause));
        if (cause instanceof Refusal && cause.status === 0) {
          queue.current.unshift(next);
          setLost((times) => times + 1);
          break;
        }
        wish.current = { ...wish.current, changes: [], seed: null };
        setChanges([]);
      }
    }
    clearTimeout(slow);
    setBusy(false);
    running.current = false;
  }, [planId, group, buckets, queries]);

  useEffect(() => {
    if (lost === 0) return;
    const timer = setTimeout(() => void run(), RETRY_AFTER);
    return () => clearTimeout(timer);
  }, [lost, run]);

  const ask = useCallback(
    (wanted: Wanted) => {
      queue.current = [...queue.current.filter((waiting) => waiting.keep), wanted];
      void run();
    },
    [run],
  );

  useEffect(() => {
    if (buckets > 0 && planId !== undefined) ask(wish.current);
  }, [ask, buckets, planId]);

  // biome-ignore lint/correctness/useExhaustiveDependencies: each answer is one picture
  useEffect(() => {
    if (edited.current !== null) markPicture(edited.current);
    edited.current = null;
  }, [answer]);

  const edit = useCallback(
    (next: Change[], seed: number | undefined, keep: boolean) => {
      setChanges(next);
      wish.current = { ...wish.current, changes: next, seed: seed ?? null };
      ask({ ...wish.current, keep, edited: performance.now() });
    },
    [ask],
  );
  return {
    answer,
    error,
    busy,
    changes,
    preview: useCallback((next, seed) => edit(next, seed, false), [edit]),
    commit: useCallback((next, seed) => edit(next, seed, true), [edit]),
    putBack: useCallback(() => edit([], undefined, false), [edit]),
    goTo: useCallback(
      (take: number) => {
        wish.current = { ...wish.current, take };
        edit([], undefined, false);
      },
      [edit],
    ),
    look: useCallback(
      (begin: number, end: number) => {
        const limits = whole.current ?? { begin, end };
        const length = Math.min(Math.max(end - begin, LEAST_SPAN), limits.end - limits.begin);
        const from = Math.min(Math.max((begin + end - length) / 2, limits.begin), limits.end - length);
        wish.current = { ...wish.current, span: { begin: Math.round(from), end: Math.round(from + length) } };
        ask(wish.current);
      },
      [ask],
    ),
  };
}

/** Records how long it took from an edit until its picture stood on the screen. */
function markPicture(edited: number) {
  requestAnimationFrame(() => {
    const painted = new MessageChannel();
    painted.port1.onmessage = () => performance.measure("edit-to-picture", { start: edited, end: performance.now() });
    painted.port2.postMessage(null);
  });
}
