// The finder gives the focus back when it closes; only then may it go elsewhere.
const CLOSED = 250;

/** Brings what a selector finds into view, and gives it the focus or the first within it that takes it. */
export function goTo(selector: string) {
  setTimeout(() => {
    const element = document.querySelector<HTMLElement>(selector);
    element?.scrollIntoView({ block: "center" });
    (element?.matches("button, [tabindex]")
      ? element
      : element?.querySelector<HTMLElement>("button, [tabindex]")
    )?.focus();
  }, CLOSED);
}
