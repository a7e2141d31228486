import type { PageSection } from "../../shared/api/client";
import its from "./rehearse.module.css";

/** Points at what the checks noticed: a press leads to the first, and from there to the next. */
export function FindingsLine({ sections }: { sections: PageSection[] }) {
  const grave = sections
    .flatMap((section) => section.sentences)
    .flatMap((sentence) => sentence.findings)
    .filter((finding) => finding.severity !== "note").length;
  if (grave === 0) return null;
  const lead = () => {
    const found = [...document.querySelectorAll<HTMLElement>("[data-severity=error], [data-severity=warning]")];
    const here = found.findIndex((one) => one.contains(document.activeElement));
    const next = found[(here + 1) % found.length];
    next?.scrollIntoView({ block: "center" });
    (next?.querySelector("button") ?? next?.closest("[data-key]")?.querySelector<HTMLElement>("[data-path]"))?.focus();
  };
  return (
    <p className={its.findingsLine}>
      <button type="button" className="plain-button" onClick={lead}>
        {grave === 1 ? "One thing is worth a look" : `${grave} things are worth a look`}
      </button>
    </p>
  );
}
