import { refusalOf } from "../api/client";

/** What an edit does: shown while it lasts, kept as a take, or put back. */
export interface Handling {
  preview: (path: string, value: unknown) => void;
  /** Keeps it; says why it was refused, or nothing. */
  commit: (path: string, value: unknown) => Promise<string | null>;
  putBack: () => void;
  /** Something that is being read or kept, for whoever has to wait for it. */
  begins?: (edit: Promise<void>) => void;
  /** What a word holds that was refused and is not kept, or nothing any more. */
  holds?: (path: string, refused: string | null) => void;
  /** The settings that a search may vary, by path, and how one is let or kept. */
  vary?: { paths: readonly string[]; toggle: (path: string) => void };
}

/** An edit that shows nothing while it lasts, and is kept by `keep`. */
export function keptBy(keep: (path: string, value: unknown) => Promise<unknown>): Handling {
  return {
    preview: () => undefined,
    commit: (path, value) => refusalOf(keep(path, value)),
    putBack: () => undefined,
  };
}
