import { useState } from "react";

/** The seed of all chance, changed in place: the same arrangement, another week of the same kind. */
export function SeedWord({ seed, commit }: { seed: number; commit: (seed: number) => void }) {
  const [draft, setDraft] = useState<string | null>(null);
  const finish = () => {
    if (draft !== null && /^\d{1,9}$/.test(draft) && +draft !== seed) commit(+draft);
    setDraft(null);
  };
  if (draft === null)
    return (
      <button type="button" className="plain-button" onClick={() => setDraft(String(seed))}>
        seed {seed}
      </button>
    );
  return (
    <input
      className="seed"
      aria-label="Seed"
      inputMode="numeric"
      value={draft}
      // biome-ignore lint/a11y/noAutofocus: the word was just turned into this field
      autoFocus
      onChange={(event) => setDraft(event.target.value.replace(/\D/g, ""))}
      onBlur={finish}
      onKeyDown={(event) => {
        if (event.key === "Enter") finish();
        if (event.key === "Escape") setDraft(null);
        event.stopPropagation();
      }}
    />
  );
}
