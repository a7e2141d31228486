import "./library.css";
import { useQuery } from "@tanstack/react-query";
import { NavLink, useNavigate, useParams } from "react-router";
import { answered, api } from "../api/client";
import { usePlan } from "../app/plan";
import { DemandsPart } from "./DemandsPart";
import { MachinesPart } from "./MachinesPart";
import { NewTemplate } from "./NewTemplate";
import { TemplateSheet } from "./TemplateSheet";

/** The library: what groups are made of, each kind with its list on the left and the chosen one beside it. */
export function LibraryScreen() {
  const { part = "templates" } = useParams();
  const { plan, error } = usePlan();
  return (
    <main className={`library part-${part}`}>
      <nav aria-label="Library" className="library-parts">
        <NavLink to="/library/templates" aria-current={part === "templates" ? "page" : undefined}>
          Templates
        </NavLink>
        <NavLink to="/library/demands">Demands</NavLink>
        <NavLink to="/library/machines">Machines</NavLink>
      </nav>
      {error && <p className="notice">{error.message}</p>}
      {plan && part === "templates" && <TemplatesPart plan={plan.id} groups={plan.groups} />}
      {plan && part === "machines" && <MachinesPart plan={plan} />}
      {plan && part === "demands" && <DemandsPart plan={plan} />}
    </main>
  );
}

function TemplatesPart({ plan, groups }: { plan: number; groups: string[] }) {
  const { name } = useParams();
  const navigate = useNavigate();
  const templates = useQuery({
    queryKey: ["templates", plan],
    queryFn: () => answered(api.GET("/api/plans/{plan_id}/templates", { params: { path: { plan_id: plan } } })),
  });
  const shown = templates.data?.find((one) => one.name === name) ?? templates.data?.[0];
  return (
    <>
      <section className="library-list" aria-label="Launch templates">
        {templates.data?.map((one) => (
          <button
            key={one.name}
            type="button"
            aria-current={one === shown}
            className="template-name"
            onClick={() => navigate(`/library/templates/${one.name}`)}
          >
            <b>{one.name}</b>
            <span>
              {one.versions.length === 1 ? "1 version" : `${one.versions.length} versions`}
              {one.versions.every((version) => version.used_by.length === 0) && ", used by no group"}
            </span>
          </button>
        ))}
        <NewTemplate plan={plan} groups={groups} like={shown?.name} />
      </section>
      {templates.error && <p className="notice">{templates.error.message}</p>}
      {shown && <TemplateSheet key={shown.name} plan={plan} template={shown} />}
    </>
  );
}
