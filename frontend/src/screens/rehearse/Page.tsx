import { clsx } from "clsx";
import { memo, useCallback, useEffect, useMemo, useRef } from "react";
import { Link } from "react-router";
import { type Act, useOffered } from "../../shared/acts/acts";
import { goTo } from "../../shared/acts/goTo";
import { OfferButton, Offers } from "../../shared/acts/Offers";
import type { Change, Distribution, PageSection, PageSentence, Picture } from "../../shared/api/client";
import { FileChoice, SERIES_FILES } from "../../shared/files/FileChoice";
import filesSheet from "../../shared/files/files.module.css";
import type { Handling } from "../../shared/gesture/handling";
import { Words } from "../../shared/words/Words";
import { MendButton } from "./MendButton";
import its from "./rehearse.module.css";
import { CalendarWeek } from "./strips/CalendarWeek";
import type { Edits } from "./strips/kinds";
import type { Desk } from "./useRehearsal";

interface Props {
  sections: PageSection[];
  distributions: Distribution[];
  commit: Desk["commit"];
  calendar: Picture["calendar"];
  edits: Edits;
  /** Why what is offered would be refused, by the section or sentence and what the offer says. */
  refused: Record<string, Record<string, string>>;
  /** When a hand is to act that is added now, ms since 1970. */
  handAt: number;
  handling: Handling;
  bring: (file: File) => void;
  /** Zooms the strips to a time, ms since 1970. */
  show: (at: number) => void;
}

/** The arrangement as sentences whose underlined words are the controls. One that was just added takes the focus. */
export const Page = memo(function Page({
  sections,
  distributions,
  commit,
  calendar,
  edits,
  refused,
  handAt,
  handling,
  bring,
  show,
}: Props) {
  const asked = useRef(false);
  const known = useRef<string[]>([]);
  useEffect(() => {
    const keys = sections.flatMap((section) => section.sentences.map((one) => one.key));
    const added = keys.filter((key) => !known.current.includes(key));
    if (asked.current && added.length === 1)
      document.getElementById(`sentence-${added[0]}`)?.querySelector<HTMLElement>("[data-path]")?.focus();
    if (added.length > 0) asked.current = false;
    known.current = keys;
  }, [sections]);
  const take = useCallback(
    (changes: Change[]) => {
      asked.current = true;
      commit(
        changes.map((change) =>
          change.path === "hands" ? { ...change, value: { ...(change.value as object), at: handAt } } : change,
        ),
      );
    },
    [commit, handAt],
  );
  useOffered(
    useMemo(() => {
      const sentences = sections.flatMap((section) => section.sentences);
      return [
        ...sentences.flatMap((one) => settingsOf(one)),
        ...sentences.flatMap((one) =>
          one.findings.map(
            (finding): Act => ({
              group: "Findings",
              label: finding.code.replaceAll("-", " "),
              about: finding.text,
              run: () => goTo(`[data-key="${one.key}"] [data-code="${finding.code}"]`),
            }),
          ),
        ),
        ...sections.flatMap((section) =>
          section.more.map(
            (offer): Act => ({
              group: "Do here",
              label: offer.text,
              about: section.title,
              also: offer.also,
              run: () => take(offer.changes),
            }),
          ),
        ),
      ];
    }, [sections, take]),
  );
  const sentence = (one: PageSentence) => {
    return (
      <div
        key={one.key}
        className={clsx(its.sentence, `tone-${one.tone}`)}
        data-key={one.key}
        id={`sentence-${one.key}`}
      >
        <p>
          <Words words={one.words} handling={handling} distributions={distributions} />
          {one.key === "demand" && (
            <>
              {" "}
              <Link
                className={`plain-button ${filesSheet.bring}`}
                to={`/library/demands/${one.words.find((word) => word.path)?.value}`}
              >
                its layers
              </Link>
              <FileChoice text="bring a file" accept={`${SERIES_FILES},.ics,.yaml,.yml,.json`} choose={bring} />
            </>
          )}
        </p>
        {one.note && <p className={`quiet ${its.note}`}>{one.note}</p>}
        {one.findings.map((finding) => (
          <div
            key={finding.code + finding.text}
            className={clsx(its.finding, its[finding.severity])}
            data-code={finding.code}
            data-severity={finding.severity}
          >
            {finding.text}{" "}
            {finding.shown_at !== null && (
              <button type="button" className="plain-button" onClick={() => show(finding.shown_at ?? 0)}>
                show
              </button>
            )}{" "}
            {finding.mend && <MendButton mend={finding.mend} commit={commit} />}
          </div>
        ))}
        {one.acts.length > 0 && (
          <span className={its.acts}>
            {one.called && (
              <span>
                called <Words words={[one.called]} handling={handling} />
              </span>
            )}
            {one.acts.map((act) => (
              <OfferButton key={act.text} offer={act} take={commit} why={refused[one.key]?.[act.text]} />
            ))}
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
          {section.key === "calendar" && <CalendarWeek calendar={calendar} {...edits} />}
          {section.sentences.filter((one) => one.key !== "pace").map(sentence)}
          <Offers offers={section.more} take={take} refused={refused[section.key]} />
          {section.sentences.filter((one) => one.key === "pace").map(sentence)}
        </section>
      ))}
    </>
  );
});

/** The settings of a sentence, found by their names here and in files. */
function settingsOf(one: PageSentence): Act[] {
  const about = one.words.map((word) => word.text).join("");
  return [...one.words, ...(one.called ? [one.called] : [])].flatMap((word) =>
    word.path && word.editor
      ? [
          {
            group: "Settings",
            label: `${word.editor.label}: ${word.text}`,
            about,
            also: `${word.editor.also} ${word.path.replace(/[._-]/g, " ")}`,
            run: () => goTo(`main [data-path="${word.path}"]`),
          },
        ]
      : [],
  );
}
