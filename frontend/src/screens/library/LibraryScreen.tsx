import { clsx } from "clsx";
import { NavLink, useParams } from "react-router";
import { usePlan } from "../../shared/api/plan";
import { DemandsPart } from "./DemandsPart";
import its from "./library.module.css";
import { MachinesPart } from "./MachinesPart";
import { NetworkPart } from "./NetworkPart";
import { TemplatesPart } from "./TemplatesPart";

/** The library: what groups are made of, each kind with its list on the left and the chosen one beside it. */
export function LibraryScreen() {
  const { part = "templates" } = useParams();
  const { plan, error } = usePlan();
  return (
    <main className={clsx(its.library, (part === "machines" || part === "network") && its.partMachines)}>
      <nav aria-label="Library" className={its.libraryParts}>
        <NavLink to="/library/templates" aria-current={part === "templates" ? "page" : undefined}>
          Templates
        </NavLink>
        <NavLink to="/library/demands">Demands</NavLink>
        <NavLink to="/library/machines">Machines</NavLink>
        <NavLink to="/library/network">Network</NavLink>
      </nav>
      {error && <p className="notice">{error.message}</p>}
      {plan && part === "templates" && <TemplatesPart plan={plan} />}
      {plan && part === "machines" && <MachinesPart plan={plan} />}
      {plan && part === "network" && <NetworkPart plan={plan} />}
      {plan && part === "demands" && <DemandsPart plan={plan} />}
    </main>
  );
}
