import { useComputedColorScheme } from "@mantine/core";
import { useMemo } from "react";

const NAMES = [
  "ground",
  "sheet",
  "ink",
  "quiet",
  "hairline",
  "indigo",
  "verdigris",
  "madder",
  "lilac",
  "ochre",
  "moss",
] as const;

export type Inks = Record<(typeof NAMES)[number], string>;

/** The inks of the theme at work, as the style sheet has them. */
export function useInks(): Inks {
  const scheme = useComputedColorScheme("light");
  // biome-ignore lint/correctness/useExhaustiveDependencies: the style sheet answers differently when the scheme changes
  return useMemo(() => {
    const style = getComputedStyle(document.documentElement);
    return Object.fromEntries(NAMES.map((name) => [name, style.getPropertyValue(`--${name}`).trim()])) as Inks;
  }, [scheme]);
}

/** A colour with an opacity from 0 to 1. */
export function thin(color: string, opacity: number): string {
  return `${color}${Math.round(opacity * 255)
    .toString(16)
    .padStart(2, "0")}`;
}

/** The ink of a guest among those of its host, from strong to faint. */
export function guestInk(inks: Inks, number: number, of: number): string {
  return thin(inks.indigo, of === 1 ? 0.5 : 0.75 - (0.6 * number) / (of - 1));
}
