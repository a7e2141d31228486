import { useCallback, useEffect, useRef, useState } from "react";
import { Refusal } from "./client";

const RETRY_AFTER = 2000;
const SHOWN_AFTER = 300;

interface Waiting<Wish> {
  wish: Wish;
  /** Says what came of it: why it was refused, or nothing. */
  tell: (refusal: string | null) => void;
}

/**
 * Wishes to the server, one under way at a time. Of those that only look, the newest waits and the rest are dropped;
 * one that keeps something is never dropped. While the server does not answer they wait and are sent again. After one that
 * was refused or given up, what stands without it is asked for, if nothing else waits; the reason stays until the next wish.
 * `send` gets what waits when its answer has come. `rest` ends when nothing is under way.
 */
export function useQueue<Wish extends { keep: boolean }>(
  send: (wish: Wish, waiting: () => Wish[], signal: AbortSignal) => Promise<void>,
  stands: () => Wish,
): {
  ask: (wish: Wish) => Promise<string | null>;
  busy: boolean;
  error: string | null;
  cancel: () => void;
  rest: () => Promise<void>;
} {
  const [error, setError] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const [lost, setLost] = useState(0);
  const queue = useRef<Waiting<Wish>[]>([]);
  const running = useRef(false);
  const resting = useRef<(() => void)[]>([]);
  const stopper = useRef<AbortController>(null);

  const run = useCallback(async () => {
    if (running.current) return;
    running.current = true;
    const slow = setTimeout(() => setBusy(true), SHOWN_AFTER);
    let instead: Wish | null = null;
    const fallBack = (from: Wish) => {
      const standing = stands();
      if (from === instead || queue.current.length > 0) return;
      instead = standing;
      queue.current.push({ wish: standing, tell: () => undefined });
    };
    for (let next = queue.current.shift(); next; next = queue.current.shift()) {
      const asked = new AbortController();
      stopper.current = asked;
      try {
        await send(next.wish, () => queue.current.map((one) => one.wish), asked.signal);
        if (next.wish !== instead) setError(null);
        next.tell(null);
      } catch (cause) {
        if (asked.signal.aborted) {
          next.tell(null);
          fallBack(next.wish);
          continue;
        }
        const said = cause instanceof Error ? cause.message : String(cause);
        setError(said);
        if (cause instanceof Refusal && cause.status === 0) {
          queue.current.unshift(next);
          setLost((times) => times + 1);
          break;
        }
        next.tell(cause instanceof Refusal ? cause.what : said);
        fallBack(next.wish);
      }
    }
    clearTimeout(slow);
    setBusy(false);
    running.current = false;
    if (queue.current.length === 0) for (const end of resting.current.splice(0)) end();
  }, [send, stands]);

  useEffect(() => {
    if (lost === 0) return;
    const timer = setTimeout(() => void run(), RETRY_AFTER);
    return () => clearTimeout(timer);
  }, [lost, run]);

  const ask = useCallback(
    (wish: Wish) =>
      new Promise<string | null>((tell) => {
        for (const one of queue.current) if (!one.wish.keep) one.tell(null);
        queue.current = [...queue.current.filter((one) => one.wish.keep), { wish, tell }];
        void run();
      }),
    [run],
  );
  const cancel = useCallback(() => {
    for (const one of queue.current.splice(0)) one.tell(null);
    stopper.current?.abort();
  }, []);
  const rest = useCallback(
    () =>
      new Promise<void>((end) => {
        if (!running.current && queue.current.length === 0) end();
        else resting.current.push(end);
      }),
    [],
  );
  return { ask, busy, error, cancel, rest };
}
