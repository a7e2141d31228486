import { useCallback, useMemo } from "react";
import { useNavigate, useSearchParams } from "react-router";

type Value = string | number | null;

export interface Address {
  text: (name: string) => string | null;
  number: (name: string) => number | null;
  /** A whole number from 0 on. */
  count: (name: string) => number | null;
  /** Chooses by name, null for nothing. Back takes it back, unless it says `instead` of what was chosen before. */
  choose: (chosen: Record<string, Value>, how?: "instead") => void;
}

/** What is chosen on a screen: it stands in the address and nowhere else, so that Back, a link and a reload find it. */
export function useAddress(): Address {
  const [search] = useSearchParams();
  const navigate = useNavigate();
  const choose = useCallback(
    (chosen: Record<string, Value>, how?: "instead") => {
      const next = new URLSearchParams(window.location.search);
      for (const [name, value] of Object.entries(chosen))
        if (value === null || value === "") next.delete(name);
        else next.set(name, String(value));
      if (next.toString() === new URLSearchParams(window.location.search).toString()) return;
      navigate({ search: next.toString() }, { replace: how === "instead" });
    },
    [navigate],
  );
  return useMemo(() => {
    const number = (name: string) => {
      const text = search.get(name);
      return text !== null && text !== "" && Number.isFinite(+text) ? +text : null;
    };
    const count = (name: string) => {
      const found = number(name);
      return found !== null && Number.isSafeInteger(found) && found >= 0 ? found : null;
    };
    return { text: (name) => search.get(name), number, count, choose };
  }, [search, choose]);
}
