import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { answered, api } from "../../shared/api/client";
import type { Unreadable } from "../../shared/api/plan";
import { FileChoice } from "../../shared/files/FileChoice";
import its from "./groups.module.css";

/** The newest plan is kept but cannot be read: what is wrong with it, and the ways out. */
export function BrokenPlan({ found }: { found: Unreadable }) {
  const queries = useQueryClient();
  const [sure, setSure] = useState(false);
  const params = { path: { plan_id: found.plan.id } };
  const mend = useMutation({
    mutationFn: async (file: File) =>
      answered(
        api.PUT("/api/plans/{plan_id}/stored", {
          params,
          body: (await file.text()) as never,
          bodySerializer: (text) => text,
        }),
      ),
    onSuccess: () => queries.invalidateQueries(),
  });
  const drop = useMutation({
    mutationFn: () => api.DELETE("/api/plans/{plan_id}", { params: { ...params, query: { whole: true } } }),
    onSuccess: () => queries.invalidateQueries(),
  });
  return (
    <main className={its.empty}>
      <h1>The plan {found.plan.name} cannot be read.</h1>
      <div className="notice" role="alert">
        {(mend.error ?? found).message.split("\n").map((fault) => (
          <div key={fault}>{fault}</div>
        ))}
      </div>
      <p>
        It is kept as it stands, and so is all else of it: arrangements, takes, what was spent. Save it as a file, mend
        the file, and bring it back.
      </p>
      <div className={its.actions}>
        <a className="solid-button" href={`/api/plans/${found.plan.id}/stored`} download="plan.json">
          Save it as it stands
        </a>
        <FileChoice text="Bring it mended" accept=".yaml,.yml,.json" choose={(file) => mend.mutate(file)} />
        {sure ? (
          <>
            <button type="button" className="plain-button" onClick={() => drop.mutate()}>
              Take out {found.plan.name} with all that is kept of it
            </button>
            <button type="button" className="plain-button" onClick={() => setSure(false)}>
              Leave it
            </button>
          </>
        ) : (
          <button type="button" className="plain-button" onClick={() => setSure(true)}>
            Take it out
          </button>
        )}
      </div>
    </main>
  );
}
