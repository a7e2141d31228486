import type { Distribution, Word } from "../api/client";
import type { Handling } from "../strips/ThresholdLine";
import { WordEditor } from "./WordEditor";

interface Props {
  words: Word[];
  handling: Handling;
  distributions?: Distribution[];
}

/** A sentence whose words with a setting behind them open their editors. */
export function Words({ words, handling, distributions = [] }: Props) {
  return words.map((word, position) =>
    word.path && word.editor ? (
      <WordEditor
        key={word.path}
        word={word}
        editor={word.editor}
        distribution={distributions.find((one) => one.path === word.path)}
        handling={handling}
      />
    ) : (
      // biome-ignore lint/suspicious/noArrayIndexKey: plain words of a sentence have nothing but their place
      <span key={position}>{word.text}</span>
    ),
  );
}
