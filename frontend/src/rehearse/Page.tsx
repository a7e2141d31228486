import { memo } from "react";
import { Link } from "react-router";
import type { Distribution, PageSection, PageSentence } from "../api/client";
import type { Handling } from "../strips/ThresholdLine";
import { FileChoice, SERIES_FILES } from "./FileChoice";
import type { Desk } from "./useRehearsal";
import { WordEditor } from "./WordEditor";

interface Props {
  sections: PageSection[];
  distributions: Distribution[];
  commit: Desk["commit"];
  handling: Handling;
  bring: (file: File) => void;
  /** Zooms the strips to a time, ms since 1970. */
  show: (at: number) => void;
}

const ENTRIES = [
  ["floor", "keeps at least so many"],
  ["bounds", "bounds the count"],
  ["set", "sets it"],
  ["sleep", "sleeps"],
  ["removals", "lets removals in"],
  ["freeze", "freezes"],
] as const;

/** The arrangement as sentences whose underlined words are the controls. */
export const Page = memo(function Page({ sections, distributions, commit, handling, bring, show }: Props) {
  const sentence = (one: PageSentence) => {
    const policy = one.key.startsWith("policies.") || one.key.startsWith("calendar.");
    return (
      <div key={one.key} className={`sentence tone-${one.tone}`} data-key={one.key} id={`sentence-${one.key}`}>
        <p>
          {one.words.map((word, position) =>
            word.path && word.editor ? (
              <WordEditor
                key={word.path}
                word={word}
                editor={word.editor}
                distribution={distributions.find((d) => d.path === word.path)}
                handling={handling}
              />
            ) : (
              // biome-ignore lint/suspicious/noArrayIndexKey: plain words of a sentence have nothing but their place
              <span key={position}>{word.text}</span>
            ),
          )}
          {one.key === "demand" && (
            <>
              <Link
                className="plain-button bring"
                to={`/library/demands/${one.words.find((word) => word.path)?.value}`}
              >
                its layers
              </Link>
              <FileChoice text="bring a file" accept={SERIES_FILES} choose={bring} />
            </>
          )}
        </p>
        {one.findings.map((finding) => (
          <div key={finding.code + finding.text} className={`finding ${finding.severity}`} data-code={finding.code}>
            {finding.text}{" "}
            {finding.shown_at !== null && (
              <button type="button" className="plain-button" onClick={() => show(finding.shown_at ?? 0)}>
                show
              </button>
            )}{" "}
            {finding.mend && (
              <button
                type="button"
                className="plain-button"
                onClick={() =>
                  commit(
                    Object.entries(finding.mend?.settings ?? {}).map(([path, value]) => ({ op: "set", path, value })),
                  )
                }
              >
                {finding.mend.text}
              </button>
            )}
          </div>
        ))}
        {policy && (
          <span className="acts">
            <button
              type="button"
              className="plain-button"
              onClick={() => commit([{ op: "set", path: `${one.key}.paused`, value: !one.paused }])}
            >
              {one.paused ? "resume" : "pause"}
            </button>
            <button type="button" className="plain-button" onClick={() => commit([{ op: "remove", path: one.key }])}>
              take out
            </button>
          </span>
        )}
      </div>
    );
  };
  return (
    <>
      {sections.map((section) => (
        <section key={section.key} aria-label={section.title}>
          <h2>{section.title}</h2>
          {section.sentences.filter((one) => one.key !== "pace").map(sentence)}
          {section.key === "policies" && (
            <p className="more">
              A policy that{" "}
              {(["add", "remove", "hold", "spare"] as const).map((kind, position) => (
                <span key={kind}>
                  {position > 0 && ", "}
                  <button
                    type="button"
                    className="plain-button"
                    onClick={() => commit([{ op: "add", path: "policies", value: kind }])}
                  >
                    {{ add: "adds", remove: "removes", hold: "holds a level", spare: "keeps some free" }[kind]}
                  </button>
                </span>
              ))}
            </p>
          )}
          {section.key === "calendar" && (
            <p className="more">
              An entry that{" "}
              {ENTRIES.map(([kind, text], position) => (
                <span key={kind}>
                  {position > 0 && ", "}
                  <button
                    type="button"
                    className="plain-button"
                    onClick={() => commit([{ op: "add", path: "calendar", value: kind }])}
                  >
                    {text}
                  </button>
                </span>
              ))}
            </p>
          )}
          {section.sentences.filter((one) => one.key === "pace").map(sentence)}
        </section>
      ))}
    </>
  );
});
