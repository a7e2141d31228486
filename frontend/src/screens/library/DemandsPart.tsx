import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate, useParams } from "react-router";
import { answered, api, type PlanView } from "../../shared/api/client";
import { Outline } from "../../shared/chart/Outline";
import { BringDemand } from "../../shared/files/BringDemand";
import { FileChoice, SERIES_FILES } from "../../shared/files/FileChoice";
import filesSheet from "../../shared/files/files.module.css";
import { useCarriedFile } from "../../shared/files/useCarriedFile";
import { DemandSheet } from "./DemandSheet";
import its from "./library.module.css";
import { NameList } from "./NameList";
import { NewOne } from "./NewOne";

/** All demands, each with its outline; the chosen one as layers. */
export function DemandsPart({ plan }: { plan: PlanView }) {
  const { name } = useParams();
  const navigate = useNavigate();
  const queries = useQueryClient();
  const { file, setFile, over, handlers } = useCarriedFile();
  const [into, setInto] = useState<string | null>(null);
  const [version, setVersion] = useState(0);
  const path = { plan_id: plan.id };
  const demands = useQuery({
    queryKey: ["demands", plan.id],
    queryFn: () => answered(api.GET("/api/plans/{plan_id}/demands", { params: { path } })),
  });
  const shown = demands.data?.find((one) => one.name === name) ?? demands.data?.[0];
  const begin = async (called: string, like: string) =>
    (
      await answered(
        api.POST("/api/plans/{plan_id}/demands", { params: { path }, body: { name: called, like: like || null } }),
      )
    ).name;
  const brought = async (made: string) => {
    await queries.invalidateQueries();
    setVersion(version + 1);
    navigate(`/library/demands/${made}`);
  };
  return (
    <>
      <NameList
        label="Demands"
        part="demands"
        ones={demands.data ?? []}
        shown={shown}
        about={(one) => (
          <>
            <Outline demand={one.shape} capacity={[]} label={`The week of ${one.name}`} />
            <span>
              {one.line}
              {one.used_by.length > 0 ? `, met by ${one.used_by.join(", ")}` : ", met by no group"}
            </span>
          </>
        )}
      >
        <NewOne
          noun="demand"
          sources={[
            ["", "a level in a day's shape"],
            ...(shown ? [[shown.name, `like ${shown.name}`] as [string, string]] : []),
          ]}
          begin={begin}
        >
          <FileChoice text="bring a file" accept={SERIES_FILES} choose={setFile} />
        </NewOne>
      </NameList>
      {demands.error && <p className="notice">{demands.error.message}</p>}
      <div className={its.demandSide} {...handlers}>
        {shown && (
          <DemandSheet
            key={`${shown.name} ${version}`}
            plan={plan.id}
            name={shown.name}
            goTo={brought}
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
          <p className={its.sheet}>
            A demand says how much arrives, and when. Compose one from layers, or bring a CSV.
          </p>
        )}
        {over && <div className={filesSheet.drop}>Drop a CSV or OpenMetrics text: it becomes a demand of its own</div>}
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
          done={(made) => {
            setFile(null);
            setInto(null);
            brought(made);
          }}
        />
      )}
    </>
  );
}
