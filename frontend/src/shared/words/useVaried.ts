import { useCallback, useEffect, useMemo } from "react";
import { useAddress } from "../acts/address";
import { useKept } from "./useKept";

/** The settings that a search of a group may vary, by path: as the address says, else as they were chosen last; none for what its
 * policies have. */
export function useVaried(plan: number | undefined, group: string): [string[], (paths: string[]) => void] {
  const { text, choose } = useAddress();
  const [kept, keep] = useKept<string>(`jostle.vary ${plan} ${group}`);
  const written = text("vary");
  useEffect(() => {
    if (written !== null) keep(written);
  }, [written, keep]);
  const said = written ?? kept ?? "";
  return [
    useMemo(() => said.split(",").filter(Boolean), [said]),
    useCallback(
      (paths: string[]) => {
        keep(paths.join(",") || null);
        choose({ vary: paths.join(",") }, "instead");
      },
      [keep, choose],
    ),
  ];
}
