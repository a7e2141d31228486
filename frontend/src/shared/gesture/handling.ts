/** What an edit does: shown while it lasts, kept as a take, or put back. */
export interface Handling {
  preview: (path: string, value: unknown) => void;
  commit: (path: string, value: unknown) => void;
  putBack: () => void;
  /** The settings that a search may vary, by path, and how one is let or kept. */
  vary?: { paths: readonly string[]; toggle: (path: string) => void };
}
