import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import { answered, api, type Change, type Rehearsed } from "../../shared/api/client";
import { useQueue } from "../../shared/api/useQueue";
import { useCommit } from "../../shared/gesture/useCommit";

export interface Span {
  begin: number;
  end: number;
}

/** What the address says: the take, the part of the span, the metrics that are shown besides, and how often Back or Forward led. */
export interface Chosen {
  take: number | null;
  span: Span | null;
  metrics: string[];
  went: number;
}

interface Wanted {
  take: number | null;
  changes: Change[];
  seed: number | null;
  keep: boolean;
  span: Span | null;
  metrics: string[];
  edited: number | null;
}

export interface Desk {
  answer: Rehearsed | null;
  error: string | null;
  busy: boolean;
  /** Gives up what is being rehearsed; what was tried is put back. */
  cancel: () => void;
  /** Shows what changes to the take would bring, without keeping it. */
  preview: (changes: Change[], seed?: number) => void;
  /** Keeps changes as the next take; says why they were refused, or nothing. */
  commit: (changes: Change[], seed?: number) => Promise<string | null>;
  /** Keeps what is being tried as the next take. */
  keepTried: () => void;
  /** Drops what is not kept. */
  putBack: () => void;
  goTo: (take: number) => void;
  look: (begin: number, end: number) => void;
  changes: Change[];
  /** The take at work, once nothing is under way. */
  settled: () => Promise<number | null>;
}

const LEAST_SPAN = 10 * 60_000;
/** How long edits rest before what takes longer than a picture is looked for. */
const REST = 250;

/**
 * The take at work with the edits on it. One request is under way at a time; while it is, only the newest wish waits.
 * A kept edit is never dropped for a newer wish.
 */
export function useRehearsal(
  planId: number | undefined,
  group: string,
  buckets: number,
  { take, span, metrics, went }: Chosen,
  choose: (take: number, how?: "instead") => void,
): Desk {
  const [answer, setAnswer] = useState<Rehearsed | null>(null);
  const [changes, setChanges] = useState<Change[]>([]);
  const wish = useRef<Wanted>({ take, changes: [], seed: null, keep: false, span, metrics, edited: null });
  const whole = useRef<Span | null>(null);
  /** Takes that were chosen here, until the address says so: it may say so late. */
  const chosen = useRef<number[]>([]);
  const edited = useRef<number | null>(null);
  const shown = useRef<Pick<Wanted, "take" | "changes" | "seed">>({ take: null, changes: [], seed: null });
  const queries = useQueryClient();

  const send = useCallback(
    async (next: Wanted, waiting: () => Wanted[], signal: AbortSignal) => {
      if (planId === undefined) return;
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
            metrics: next.metrics,
          },
          signal,
        }),
      );
      whole.current = got.picture.whole;
      if (next.keep) {
        // What was wished on the same take meanwhile goes on from what it has become.
        for (const one of waiting()) if (one.take === next.take) one.take = got.take.number;
        if (wish.current.take === next.take) {
          wish.current = { ...wish.current, take: got.take.number };
          if (wish.current.changes === next.changes) {
            wish.current = { ...wish.current, changes: [], seed: null };
            setChanges([]);
          }
          if (got.take.number !== next.take) chosen.current.push(got.take.number);
          choose(got.take.number);
        }
        await queries.invalidateQueries({ queryKey: ["takes", planId, group] });
      } else if (wish.current.take === null) {
        for (const one of waiting()) one.take ??= got.take.number;
        wish.current.take = got.take.number;
        choose(got.take.number, "instead");
      }
      shown.current = next.keep
        ? { take: got.take.number, changes: [], seed: null }
        : { take: got.take.number, changes: next.changes, seed: next.seed };
      setAnswer(got);
      edited.current = next.edited;
    },
    [planId, group, buckets, queries, choose],
  );
  const stands = useCallback(() => {
    wish.current = { ...wish.current, changes: [], seed: null };
    setChanges([]);
    return wish.current;
  }, []);
  const { ask, busy, error, cancel, rest } = useQueue(send, stands);

  useEffect(() => {
    if (buckets > 0 && planId !== undefined) ask(wish.current);
  }, [ask, buckets, planId]);

  // The address leads: another take, other strips, and after Back or Forward another span.
  useEffect(() => {
    const own = chosen.current.lastIndexOf(take ?? 0);
    chosen.current.splice(0, own + 1);
    if (take === null || take === wish.current.take || own >= 0) return;
    setChanges([]);
    wish.current = { ...wish.current, take, changes: [], seed: null };
    ask({ ...wish.current, edited: performance.now() });
  }, [take, ask]);
  const strips = metrics.join();
  // biome-ignore lint/correctness/useExhaustiveDependencies: the metrics are new to the eye whenever the address is read
  useEffect(() => {
    if (strips === wish.current.metrics.join()) return;
    wish.current = { ...wish.current, metrics };
    ask(wish.current);
  }, [strips, ask]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: only a step through the history leads the span
  useEffect(() => {
    if (went === 0 || same(span, wish.current.span)) return;
    wish.current = { ...wish.current, span };
    ask(wish.current);
  }, [went, ask]);

  useEffect(() => {
    if (planId === undefined || !answer || answer.verdict.whole) return;
    const asked = new AbortController();
    const { take, changes, seed } = shown.current;
    const look = async () => {
      const { verdict, page } = await answered(
        api.POST("/api/plans/{plan_id}/groups/{group}/bounds", {
          params: { path: { plan_id: planId, group } },
          body: { take, changes, seed },
          signal: asked.signal,
        }),
      );
      // Another picture may have come in the meantime, and is not to be lost for this.
      const completed = { ...answer, verdict, page: page ?? answer.page };
      setAnswer((now) => (now === answer ? completed : now));
    };
    const timer = setTimeout(() => look().catch(() => undefined), REST);
    return () => {
      clearTimeout(timer);
      asked.abort();
    };
  }, [answer, planId, group]);

  useEffect(() => {
    if (edited.current !== null) markPicture("edit-to-picture", edited.current);
    else if (answer && performance.getEntriesByName("page-to-picture").length === 0) markPicture("page-to-picture", 0);
    edited.current = null;
  }, [answer]);

  const edit = useCallback(
    (next: Change[], seed: number | undefined, keep: boolean) => {
      setChanges(next);
      wish.current = { ...wish.current, changes: next, seed: seed ?? null };
      return ask({ ...wish.current, keep, edited: performance.now() });
    },
    [ask],
  );
  const commit = useCommit(useCallback((next: Change[], seed?: number) => edit(next, seed, true), [edit]));
  return {
    answer,
    error,
    busy,
    cancel,
    changes,
    preview: useCallback((next, seed) => void edit(next, seed, false), [edit]),
    commit,
    keepTried: useCallback(() => void commit(wish.current.changes), [commit]),
    putBack: useCallback(() => void edit([], undefined, false), [edit]),
    settled: useCallback(async () => {
      await rest();
      return wish.current.take;
    }, [rest]),
    goTo: useCallback(
      (next: number) => {
        if (next === wish.current.take) void edit([], undefined, false);
        else choose(next);
      },
      [edit, choose],
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

/** Records how long it took from an edit, or from the opening of the page, until its picture stood on the screen. */
function markPicture(name: string, start: number) {
  requestAnimationFrame(() => {
    const painted = new MessageChannel();
    painted.port1.onmessage = () => performance.measure(name, { start, end: performance.now() });
    painted.port2.postMessage(null);
  });
}

function same(one: Span | null, other: Span | null): boolean {
  return one?.begin === other?.begin && one?.end === other?.end;
}
