import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { answered, api, type Change, type DemandView } from "../../shared/api/client";
import { useQueue } from "../../shared/api/useQueue";
import type { Handling } from "../../shared/gesture/handling";
import { useCommit } from "../../shared/gesture/useCommit";

interface Wanted {
  changes: Change[];
  keep: boolean;
  apart: string | null;
  turn: "edit" | "undo" | "redo";
}

export interface DemandDesk {
  view: DemandView | null;
  error: string | null;
  busy: boolean;
  handling: Handling;
  preview: (changes: Change[]) => void;
  commit: (changes: Change[]) => Promise<string | null>;
  /** Keeps what is being tried. */
  keepTried: () => void;
  /** The layer without which the demand is drawn besides. */
  apart: string | null;
  setApart: (key: string | null) => void;
  undo: (() => void) | null;
  redo: (() => void) | null;
}

/** A demand at work with the edits on it; each kept edit can be taken back. */
export function useDemand(plan: number, name: string, buckets: number): DemandDesk {
  const [view, setView] = useState<DemandView | null>(null);
  const [apart, setApartKey] = useState<string | null>(null);
  const [back, setBack] = useState<Change[][]>([]);
  const [forth, setForth] = useState<Change[][]>([]);
  const state = useRef<string | null>(null);
  const wish = useRef<Wanted>({ changes: [], keep: false, apart: null, turn: "edit" });
  const queries = useQueryClient();
  const send = useCallback(
    async ({ turn, ...next }: Wanted) => {
      if (buckets === 0) return;
      const got = await answered(
        api.POST("/api/plans/{plan_id}/demands/{name}/views", {
          params: { path: { plan_id: plan, name } },
          body: { ...next, state: state.current, buckets },
        }),
      );
      // A try leaves the state as it was, so that an edit of what another window has changed since is refused.
      if (next.keep || next.changes.length === 0) state.current = got.state;
      setView(got);
      if (!next.keep || got.undo.length === 0) return;
      if (turn === "undo") {
        setBack((piled) => piled.slice(0, -1));
        setForth((piled) => [...piled, got.undo]);
      } else {
        setBack((piled) => [...piled, got.undo]);
        setForth((piled) => (turn === "redo" ? piled.slice(0, -1) : []));
      }
      await queries.invalidateQueries({ predicate: ({ queryKey }) => queryKey[0] !== "plan" });
    },
    [plan, name, buckets, queries],
  );
  const { ask, busy, error } = useQueue(
    send,
    useCallback(() => {
      wish.current = { ...wish.current, changes: [] };
      state.current = null;
      return wish.current;
    }, []),
  );
  useEffect(() => {
    if (buckets > 0) ask(wish.current);
  }, [ask, buckets]);
  const edit = useCallback(
    (changes: Change[], keep: boolean) => {
      wish.current = { ...wish.current, changes: keep ? [] : changes };
      return ask({ ...wish.current, changes, keep });
    },
    [ask],
  );
  const preview = useCallback((changes: Change[]) => void edit(changes, false), [edit]);
  const commit = useCommit(useCallback((changes: Change[]) => edit(changes, true), [edit]));
  const setApart = useCallback(
    (key: string | null) => {
      setApartKey(key);
      wish.current = { ...wish.current, apart: key };
      ask(wish.current);
    },
    [ask],
  );
  const turn = useCallback(
    (piled: Change[][], to: "undo" | "redo") => {
      const newest = piled.at(-1);
      return newest ? () => ask({ ...wish.current, changes: newest, keep: true, turn: to }) : null;
    },
    [ask],
  );
  return {
    view,
    error,
    busy,
    preview,
    commit,
    keepTried: useCallback(() => commit(wish.current.changes), [commit]),
    apart,
    setApart,
    undo: useMemo(() => turn(back, "undo"), [turn, back]),
    redo: useMemo(() => turn(forth, "redo"), [turn, forth]),
    handling: {
      preview: useCallback((path, value) => preview([{ op: "set", path, value }]), [preview]),
      commit: useCallback((path, value) => commit([{ op: "set", path, value }]), [commit]),
      putBack: useCallback(() => preview([]), [preview]),
    },
  };
}
