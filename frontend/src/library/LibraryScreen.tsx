import "./library.css";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answered, api } from "../api/client";
import { usePlan } from "../app/plan";
import { TemplateSheet } from "./TemplateSheet";

/** The library: launch templates with their versions. */
export function LibraryScreen() {
  const { plan, error } = usePlan();
  const [chosen, setChosen] = useState<string | null>(null);
  const templates = useQuery({
    queryKey: ["templates", plan?.id],
    enabled: plan !== undefined,
    queryFn: () =>
      answered(api.GET("/api/plans/{plan_id}/templates", { params: { path: { plan_id: plan?.id ?? 0 } } })),
  });
  const shown = templates.data?.find((one) => one.name === chosen) ?? templates.data?.[0];
  const fault = error ?? templates.error;
  return (
    <main className="library">
      <nav aria-label="Launch templates">
        <h2>Launch templates</h2>
        {templates.data?.map((one) => (
          <button
            key={one.name}
            type="button"
            aria-current={one === shown}
            className="template-name"
            onClick={() => setChosen(one.name)}
          >
            <b>{one.name}</b>
            <span>
              {one.versions.length === 1 ? "1 version" : `${one.versions.length} versions`}
              {one.versions.every((version) => version.used_by.length === 0) && ", used by no group"}
            </span>
          </button>
        ))}
      </nav>
      {fault && <p className="notice">{fault.message}</p>}
      {shown && plan && <TemplateSheet key={shown.name} plan={plan.id} template={shown} />}
    </main>
  );
}
