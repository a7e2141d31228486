import { Link } from "react-router";
import type { PageSection } from "../../shared/api/client";

interface Props {
  group: string;
  take: number;
  sections: PageSection[];
  paths: readonly string[];
  clear: () => void;
}

/** The words that a search may vary, and the way to it. */
export function VaryLine({ group, take, sections, paths, clear }: Props) {
  if (paths.length === 0) return null;
  const said = sections
    .flatMap((section) => section.sentences)
    .flatMap((one) => one.words.map((word) => ({ word, of: one.called?.text })))
    .filter(({ word }) => word.path && paths.includes(word.path))
    .map(
      ({ word, of }) =>
        `${(word.editor?.label ?? "").replace(/^[A-Z](?=[a-z])/, (first) => first.toLowerCase())}${of ? ` of ${of}` : ""}`,
    );
  return (
    <p role="status" aria-label="What may vary">
      May vary: {said.join(", ")}.{" "}
      <Link className="plain-button" to={`/tune/${group}?take=${take}&vary=${paths.join(",")}`}>
        look for the best
      </Link>{" "}
      <button type="button" className="plain-button" onClick={clear}>
        none
      </button>
    </p>
  );
}
