import { useComputedColorScheme, useMantineColorScheme } from "@mantine/core";
import { useHotkeys } from "@mantine/hooks";
import { lazy, Suspense, useState } from "react";
import { Link, NavLink, Outlet, useLocation } from "react-router";
import { useActs } from "../shared/acts/acts";
import { Unreadable, usePlan } from "../shared/api/plan";

const BrokenPlan = lazy(() => import("../screens/groups/BrokenPlan").then((its) => ({ default: its.BrokenPlan })));
const Finder = lazy(() => import("./Finder").then((its) => ({ default: its.Finder })));
const Keys = lazy(() => import("./Keys").then((its) => ({ default: its.Keys })));

/** The thin top rail, and the screen below it. */
export function Shell() {
  const { setColorScheme } = useMantineColorScheme();
  const scheme = useComputedColorScheme("light");
  const { plan, error } = usePlan();
  const { pathname } = useLocation();
  const here = pathname.startsWith("/rehearse/") ? pathname : null;
  const first = plan?.groups[0];
  const tune = first ? `/tune/${here?.split("/")[2] ?? first}` : null;
  const rehearse = here ?? (first ? `/rehearse/${first}` : null);
  const other = scheme === "dark" ? "light" : "dark";
  const [keys, setKeys] = useState(false);
  const [finder, setFinder] = useState(false);
  useHotkeys([
    ["shift + ?", () => setKeys(true)],
    ["mod + K", () => setFinder(true)],
    ...useActs().flatMap((act) => (act.keys ?? []).map((key) => [key, act.run] as [string, () => void])),
  ]);
  return (
    <div className="shell">
      <header className="rail">
        <Link to="/groups" className="wordmark" aria-label="Jostle, to the groups">
          {[..."jostle"].map((letter, position) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: the letters of one word never change places
            <span key={position} aria-hidden>
              {letter}
            </span>
          ))}
        </Link>
        <nav aria-label="Screens">
          <NavLink to="/groups">Groups</NavLink>
          {rehearse && <NavLink to={rehearse}>Rehearse</NavLink>}
          {tune && <NavLink to={tune}>Tune</NavLink>}
          {plan && <NavLink to="/live">Live</NavLink>}
          {plan && <NavLink to="/costs">Costs</NavLink>}
          {plan && <NavLink to="/library">Library</NavLink>}
        </nav>
        <div className="end">
          <button type="button" className="plain-button" onClick={() => setKeys(true)} aria-label="Keys">
            ?
          </button>
          <button type="button" className="plain-button" onClick={() => setColorScheme(other)}>
            {other === "dark" ? "Dark" : "Light"}
          </button>
          {plan && <span title="All times are shown in this zone">{plan.time_zone}</span>}
        </div>
      </header>
      <Suspense fallback={null}>{error instanceof Unreadable ? <BrokenPlan found={error} /> : <Outlet />}</Suspense>
      <Suspense fallback={null}>
        {finder && <Finder plan={plan} turn={() => setColorScheme(other)} keys={() => setKeys(true)} />}
        {keys && <Keys close={() => setKeys(false)} />}
      </Suspense>
    </div>
  );
}
