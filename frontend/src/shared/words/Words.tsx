import type { Distribution, Word } from "../api/client";
import type { Handling } from "../gesture/handling";
import { WordEditor } from "./WordEditor";
import its from "./words.module.css";

interface Props {
  words: Word[];
  handling: Handling;
  distributions?: Distribution[];
}

const POINTS = /^[.,;:)]+/;

/** A sentence whose words with a setting behind them open their editors. Points stay on the line of the word before them. */
export function Words({ words, handling, distributions = [] }: Props) {
  const editable = (word: Word | undefined) => word?.path && word.editor;
  return words.map((word, position) =>
    word.path && word.editor ? (
      <span key={word.path} className={its.held}>
        <WordEditor
          word={word}
          editor={word.editor}
          distribution={distributions.find((one) => one.path === word.path)}
          handling={handling}
        />
        {!editable(words[position + 1]) && words[position + 1]?.text.match(POINTS)?.[0]}
      </span>
    ) : (
      // biome-ignore lint/suspicious/noArrayIndexKey: plain words of a sentence have nothing but their place
      <span key={position}>{editable(words[position - 1]) ? word.text.replace(POINTS, "") : word.text}</span>
    ),
  );
}
