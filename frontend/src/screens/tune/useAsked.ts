import { useRef, useState } from "react";
import { useKept } from "../../shared/words/useKept";

interface Asked {
  left: string[];
  blanks: Record<string, { value: number; text: string }>;
  /** Demands by a number of their own, since one may be there twice, at different heights. */
  under: { own: number; demand: string }[];
}

const USUAL: Asked = { left: [], blanks: {}, under: [] };

/** A number that is asked for: what stands in its blank at first, its value, null while it cannot be read. */
export interface Blank {
  first: string;
  value: number | null;
  set: (value: number | null, text: string) => void;
}

/** What is asked of a search of a group, as it was left: what may not vary, the numbers typed, the demands. */
export function useAsked(plan: number, group: string) {
  const [kept, keep] = useKept<Asked>(`jostle.tune ${plan} ${group}`);
  const [unread, setUnread] = useState<string[]>([]);
  const asked = kept ?? USUAL;
  // Readings come while others are under way, and each adds to what was kept last.
  const newest = useRef(asked);
  newest.current = asked;
  const change = (next: (now: Asked) => Partial<Asked>) => {
    newest.current = { ...newest.current, ...next(newest.current) };
    keep(newest.current);
  };
  const blank = (name: string, first: string, usual: number): Blank => ({
    first: asked.blanks[name]?.text ?? first,
    value: unread.includes(name) ? null : (asked.blanks[name]?.value ?? usual),
    set: (value, text) => {
      setUnread((now) => [...now.filter((one) => one !== name), ...(value === null ? [name] : [])]);
      if (value !== null) change((now) => ({ blanks: { ...now.blanks, [name]: { value, text } } }));
    },
  });
  return {
    blank,
    left: asked.left,
    leave: (path: string, out: boolean) =>
      change((now) => ({ left: [...now.left.filter((one) => one !== path), ...(out ? [path] : [])] })),
    under: asked.under.map((one) => ({ ...one, times: blank(`times ${one.own}`, "1", 1) })),
    add: (demand: string) =>
      change((now) => ({
        under: [...now.under, { own: 1 + Math.max(0, ...now.under.map((one) => one.own)), demand }],
      })),
    put: (own: number, demand: string) =>
      change((now) => ({ under: now.under.map((one) => (one.own === own ? { own, demand } : one)) })),
    takeOut: (own: number) =>
      change((now) => {
        const { [`times ${own}`]: _, ...blanks } = now.blanks;
        return { blanks, under: now.under.filter((one) => one.own !== own) };
      }),
  };
}
