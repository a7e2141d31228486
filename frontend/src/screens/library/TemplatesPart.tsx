import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useParams } from "react-router";
import { answered, api, type PlanView } from "../../shared/api/client";
import { keptBy } from "../../shared/gesture/handling";
import { Words } from "../../shared/words/Words";
import its from "./library.module.css";
import { NameList } from "./NameList";
import { NewOne } from "./NewOne";
import { TemplateSheet } from "./TemplateSheet";

const GROUP = "group ";
type Rule = "required_tags" | "machines" | "shut_ports";

/** All launch templates; the versions of the chosen one side by side. */
export function TemplatesPart({ plan }: { plan: PlanView }) {
  const { name } = useParams();
  const path = { plan_id: plan.id };
  const templates = useQuery({
    queryKey: ["templates", plan.id],
    queryFn: () => answered(api.GET("/api/plans/{plan_id}/templates", { params: { path } })),
  });
  const shown = templates.data?.find((one) => one.name === name) ?? templates.data?.[0];
  const begin = async (called: string, source: string) => {
    const group = source.startsWith(GROUP) ? source.slice(GROUP.length) : null;
    const body = { name: called, like_group: group, like: group ? null : source || null };
    return (await answered(api.POST("/api/plans/{plan_id}/templates", { params: { path }, body }))).name;
  };
  const queries = useQueryClient();
  const rules = useQuery({
    queryKey: ["template rules", plan.id],
    queryFn: () => answered(api.GET("/api/plans/{plan_id}/templates/rules", { params: { path } })),
  });
  const rule = useMutation({
    scope: { id: "rules" },
    mutationFn: (body: { field: Rule; value: string }) =>
      answered(api.POST("/api/plans/{plan_id}/templates/rules", { params: { path }, body })),
    onSuccess: () => queries.invalidateQueries(),
  });
  const handling = keptBy((place, value) =>
    rule.mutateAsync({ field: place.replace("template_rules.", "") as Rule, value: String(value) }),
  );
  return (
    <>
      <NameList
        label="Launch templates"
        part="templates"
        ones={templates.data ?? []}
        shown={shown}
        about={(one) => (
          <span>
            {one.versions.length === 1 ? "1 version" : `${one.versions.length} versions`}
            {one.versions.every((version) => version.used_by.length === 0) && ", used by no group"}
          </span>
        )}
      >
        <NewOne
          noun="template"
          sources={[
            ...(shown ? [[shown.name, `like ${shown.name}`] as [string, string]] : []),
            ...plan.groups.map((group): [string, string] => [`${GROUP}${group}`, `as ${group} launches`]),
          ]}
          begin={begin}
        />
        <p className={its.rules}>
          {rules.data && <Words words={rules.data} handling={handling} />}
          {rule.error && (
            <span className="wrong" role="alert">
              {" "}
              {rule.error.message}
            </span>
          )}
        </p>
      </NameList>
      {templates.error && <p className="notice">{templates.error.message}</p>}
      {shown && <TemplateSheet key={shown.name} plan={plan.id} template={shown} />}
    </>
  );
}
