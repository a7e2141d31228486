import { useCallback, useRef, useState } from "react";
import { answered, api, type Editor, type Reading, Refusal } from "./client";

/** How what is typed is read: by which measure, in which unit where none is typed, and onto which moment. */
export interface How {
  measure: Editor["measure"];
  unit?: string;
  now?: string;
}

export interface Typed {
  text: string;
  /** How the text was understood, once the server has said so. */
  reading: Reading | null;
  refusal: string | null;
  type: (text: string) => void;
  /** Puts a text that needs no reading, as a slider or a step gives it. */
  put: (text: string, value: Reading["value"]) => void;
  /** The reading of the text as it stands; nothing where it was refused. */
  settle: () => Promise<Reading | null>;
}

/** A text that is read by the server while somebody types; `read` is told each reading that is still wanted when it comes. */
export function useTyped(how: How, first: string, read?: (reading: Reading) => void): Typed {
  const [text, setText] = useState(first);
  const [reading, setReading] = useState<Reading | null>(null);
  const [refusal, setRefusal] = useState<string | null>(null);
  const newest = useRef(0);
  const settled = useRef<Promise<Reading | null> | null>(null);
  const told = useRef(read);
  told.current = read;
  const { measure, unit, now } = how;

  const ask = useCallback(
    async (wanted: string): Promise<Reading | null> => {
      newest.current += 1;
      const mine = newest.current;
      try {
        const got = await answered(
          api.GET("/api/readings", {
            params: { query: { measure, text: wanted, unit: unit ?? "", now: now ?? null } },
          }),
        );
        if (mine === newest.current) {
          setReading(got);
          setRefusal(null);
          told.current?.(got);
        }
        return got;
      } catch (cause) {
        if (mine === newest.current) {
          setReading(null);
          setRefusal(cause instanceof Refusal ? cause.what : String(cause));
        }
        return null;
      }
    },
    [measure, unit, now],
  );
  return {
    text,
    reading,
    refusal,
    type: useCallback(
      (next: string) => {
        setText(next);
        settled.current = ask(next);
      },
      [ask],
    ),
    put: useCallback((next: string, value: Reading["value"]) => {
      newest.current += 1;
      settled.current = Promise.resolve({ value, text: next });
      setText(next);
      setReading(null);
      setRefusal(null);
    }, []),
    settle: useCallback(() => settled.current ?? ask(text), [ask, text]),
  };
}
