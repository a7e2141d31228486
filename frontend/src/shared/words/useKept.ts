import { useCallback, useState } from "react";

/** What is half written: it is there again after leaving the screen, until it is put to null. */
export function useKept<Written>(key: string): [Written | null, (next: Written | null) => void] {
  const [written, setWritten] = useState<Written | null>(() => {
    const kept = sessionStorage.getItem(key);
    return kept ? (JSON.parse(kept) as Written) : null;
  });
  const keep = useCallback(
    (next: Written | null) => {
      setWritten(next);
      if (next === null) sessionStorage.removeItem(key);
      else sessionStorage.setItem(key, JSON.stringify(next));
    },
    [key],
  );
  return [written, keep];
}
