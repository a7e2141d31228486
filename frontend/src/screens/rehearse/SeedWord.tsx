import { useId, useState } from "react";
import { useTyped } from "../../shared/api/useTyped";
import { TypedLine } from "../../shared/words/TypedLine";
import typedSheet from "../../shared/words/typed.module.css";
import its from "./verdict.module.css";

interface Props {
  seed: number;
  commit: (seed: number) => void;
}

/** The seed of all chance, changed in place: the same arrangement, another week of the same kind. */
export function SeedWord({ seed, commit }: Props) {
  const [open, setOpen] = useState(false);
  if (open) return <SeedField seed={seed} commit={commit} close={() => setOpen(false)} />;
  return (
    <button type="button" className="plain-button" onClick={() => setOpen(true)}>
      seed {seed}
    </button>
  );
}

function SeedField({ seed, commit, close }: Props & { close: () => void }) {
  const id = useId();
  const typed = useTyped({ measure: "number" }, String(seed));
  const finish = async () => {
    if (typed.text === String(seed)) return close();
    const meant = await typed.settle();
    if (!meant) return;
    if (meant.value !== seed) commit(Number(meant.value));
    close();
  };
  return (
    <span className={typedSheet.blank}>
      <input
        className={its.seed}
        aria-label="Seed"
        aria-describedby={id}
        aria-invalid={typed.refusal !== null}
        value={typed.text}
        // biome-ignore lint/a11y/noAutofocus: the word was just turned into this field
        autoFocus
        onChange={(event) => typed.type(event.target.value)}
        onBlur={() => void finish()}
        onKeyDown={(event) => {
          if (event.key === "Enter") void finish();
          if (event.key === "Escape") close();
          event.stopPropagation();
        }}
      />
      <TypedLine typed={typed} id={id} />
    </span>
  );
}
