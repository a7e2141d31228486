import { useCallback, useEffect, useRef, useState } from "react";
import { Refusal } from "./client";

const RETRY_AFTER = 2000;
const SHOWN_AFTER = 300;

/**
 * Wishes to the server, one under way at a time. Of those that only look, the newest waits and the rest are dropped;
 * one that keeps something is never dropped. While the server does not answer they wait and are sent again. After one that
 * was refused or given up, what stands without it is asked for, if nothing else waits; the reason stays until the next wish.
 */
export function useQueue<Wish extends { keep: boolean }>(
  send: (wish: Wish, waiting: Wish[], signal: AbortSignal) => Promise<void>,
  stands: () => Wish,
): { ask: (wish: Wish) => void; busy: boolean; error: string | null; cancel: () => void } {
  const [error, setError] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const [lost, setLost] = useState(0);
  const queue = useRef<Wish[]>([]);
  const running = useRef(false);
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
      queue.current.push(standing);
    };
    for (let next = queue.current.shift(); next; next = queue.current.shift()) {
      const asked = new AbortController();
      stopper.current = asked;
      try {
        await send(next, queue.current, asked.signal);
        if (next !== instead) setError(null);
      } catch (cause) {
        if (asked.signal.aborted) {
          fallBack(next);
          continue;
        }
        setError(cause instanceof Error ? cause.message : String(cause));
        if (cause instanceof Refusal && cause.status === 0) {
          queue.current.unshift(next);
          setLost((times) => times + 1);
          break;
        }
        fallBack(next);
      }
    }
    clearTimeout(slow);
    setBusy(false);
    running.current = false;
  }, [send, stands]);

  useEffect(() => {
    if (lost === 0) return;
    const timer = setTimeout(() => void run(), RETRY_AFTER);
    return () => clearTimeout(timer);
  }, [lost, run]);

  const ask = useCallback(
    (wish: Wish) => {
      queue.current = [...queue.current.filter((waiting) => waiting.keep), wish];
      void run();
    },
    [run],
  );
  const cancel = useCallback(() => {
    queue.current = [];
    stopper.current?.abort();
  }, []);
  return { ask, busy, error, cancel };
}
