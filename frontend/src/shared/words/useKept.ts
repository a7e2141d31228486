import { useCallback, useMemo, useState } from "react";

/** What is half written: it is there again after leaving the screen, until it is put to null. */
export function useKept<Written>(key: string): [Written | null, (next: Written | null) => void] {
  const [written, setWritten] = useState<Record<string, Written | null>>({});
  const found = useMemo(() => {
    const kept = sessionStorage.getItem(key);
    return kept ? (JSON.parse(kept) as Written) : null;
  }, [key]);
  const keep = useCallback(
    (next: Written | null) => {
      setWritten({ [key]: next });
      if (next === null) sessionStorage.removeItem(key);
      else sessionStorage.setItem(key, JSON.stringify(next));
    },
    [key],
  );
  return [key in written ? (written[key] ?? null) : found, keep];
}
