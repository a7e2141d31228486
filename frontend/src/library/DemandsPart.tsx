import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { useNavigate, useParams } from "react-router";
import { answered, api, type PlanView } from "../api/client";
import { Outline } from "../groups/Outline";
import { BringDemand } from "../rehearse/BringDemand";
import { FileChoice, SERIES_FILES } from "../rehearse/FileChoice";
import { useCarriedFile } from "../rehearse/useCarriedFile";
import { DemandSheet } from "./DemandSheet";

/** All demands, each with its outline; the chosen one as layers. */
export function DemandsPart({ plan }: { plan: PlanView }) {
  const { name } = useParams();
  const navigate = useNavigate();
  const queries = useQueryClient();
  const { file, setFile, over, handlers } = useCarriedFile();
  const [into, setInto] = useState<string | null>(null);
  const [version, setVersion] = useState(0);
  const [called, setCalled] = useState<string | null>(null);
  const path = { plan_id: plan.id };
  const demands = useQuery({
    queryKey: ["demands", plan.id],
    queryFn: () => answered(api.GET("/api/plans/{plan_id}/demands", { params: { path } })),
  });
  const shown = demands.data?.find((one) => one.name === name) ?? demands.data?.[0];
  const add = useMutation({
    mutationFn: (wanted: { name: string; like: string | null }) =>
      answered(api.POST("/api/plans/{plan_id}/demands", { params: { path }, body: wanted })),
    onSuccess: async (made) => {
      setCalled(null);
      await queries.invalidateQueries();
      navigate(`/library/demands/${made.name}`);
    },
  });
  const brought = async (made: string) => {
    await queries.invalidateQueries();
    setVersion(version + 1);
    navigate(`/library/demands/${made}`);
  };
  const submit = (event: FormEvent, like: string | null) => {
    event.preventDefault();
    if (called) add.mutate({ name: called, like });
  };
  return (
    <>
      <section className="library-list" aria-label="Demands">
        {demands.data?.map((one) => (
          <button
            key={one.name}
            type="button"
            aria-current={one === shown}
            className="template-name"
            onClick={() => navigate(`/library/demands/${one.name}`)}
          >
            <b>{one.name}</b>
            <Outline demand={one.shape} capacity={[]} label={`The week of ${one.name}`} />
            <span>
              {one.line}
              {one.used_by.length > 0 ? `, met by ${one.used_by.join(", ")}` : ", met by no group"}
            </span>
          </button>
        ))}
        <form className="new-one" onSubmit={(event) => submit(event, null)}>
          {called === null ? (
            <>
              <button type="button" className="plain-button" onClick={() => setCalled("")}>
                a new demand
              </button>
              <FileChoice text="bring a file" accept={SERIES_FILES} choose={setFile} />
            </>
          ) : (
            <>
              <input
                aria-label="Name of the new demand"
                placeholder="name-of-demand"
                value={called}
                // biome-ignore lint/a11y/noAutofocus: it was just asked for
                autoFocus
                onChange={(event) => setCalled(event.target.value)}
                onKeyDown={(event) => event.key === "Escape" && setCalled(null)}
              />
              <button type="submit" className="plain-button" disabled={!called}>
                compose it
              </button>
              {shown && (
                <button
                  type="button"
                  className="plain-button"
                  disabled={!called}
                  onClick={(event) => submit(event, shown.name)}
                >
                  like {shown.name}
                </button>
              )}
            </>
          )}
          {add.error && <span className="wrong">{add.error.message}</span>}
        </form>
      </section>
      {demands.error && <p className="notice">{demands.error.message}</p>}
      <div className={over ? "demand-side over" : "demand-side"} {...handlers}>
        {shown && (
          <DemandSheet
            key={`${shown.name} ${version}`}
            plan={plan.id}
            name={shown.name}
            bring={
              <FileChoice
                text="a series from a file"
                accept={SERIES_FILES}
                choose={(chosen) => {
                  setInto(shown.name);
                  setFile(chosen);
                }}
              />
            }
          />
        )}
        {demands.data?.length === 0 && (
          <p className="sheet">A demand says how much arrives, and when. Compose one from layers, or bring a CSV.</p>
        )}
        {over && <div className="drop">Drop a CSV or OpenMetrics text: it becomes a demand of its own</div>}
      </div>
      {file && (
        <BringDemand
          file={file}
          plan={plan}
          into={into}
          act={into ? `Lay it on ${into}` : "Keep it as a demand"}
          close={() => {
            setFile(null);
            setInto(null);
          }}
          done={brought}
        />
      )}
    </>
  );
}
