import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { answered, api, type ManySetting, type PlanView } from "../../shared/api/client";
import { TypedBlank } from "../../shared/words/TypedBlank";
import its from "./groups.module.css";

/** One change of many groups at once: those of a tag, listed with what comes of it, and then changed. */
export function ManyLine({ plan, close }: { plan: PlanView; close: () => void }) {
  const queries = useQueryClient();
  const params = { path: { plan_id: plan.id } };
  const [tag, setTag] = useState("all");
  const [path, setPath] = useState("");
  const [value, setValue] = useState<unknown>(null);
  const many = useQuery({
    queryKey: ["many", plan.id, plan.revision],
    queryFn: () => answered(api.GET("/api/plans/{plan_id}/many", { params })),
  });
  const setting = many.data?.settings.find((one) => one.path === path);
  const body = { tag, path, value };
  const looked = useQuery({
    queryKey: ["many", plan.id, plan.revision, body],
    enabled: setting !== undefined && value !== null,
    retry: false,
    queryFn: () => answered(api.POST("/api/plans/{plan_id}/many/look", { params, body })),
  });
  const change = useMutation({
    mutationFn: () => answered(api.POST("/api/plans/{plan_id}/many", { params, body })),
    onSuccess: () => {
      close();
      return queries.invalidateQueries();
    },
  });
  const lines = looked.data ?? [];
  const wrong = looked.error ?? change.error ?? many.error;
  const differing = lines.filter((line) => line.change !== "no change").length;
  return (
    <section className={its.many} aria-label="Change many groups">
      <p>
        Of{" "}
        <select aria-label="Which groups" value={tag} onChange={(event) => setTag(event.target.value)}>
          {many.data?.tags.map((one) => (
            <option key={one.tag} value={one.tag}>
              {one.tag === "all" ? "all groups" : `all with ${one.tag}`} ({one.groups.length})
            </option>
          ))}
        </select>{" "}
        set{" "}
        <select
          aria-label="What to change"
          value={path}
          onChange={(event) => {
            setPath(event.target.value);
            setValue(null);
          }}
        >
          <option value="">what?</option>
          {many.data?.settings.map((one) => (
            <option key={one.path} value={one.path}>
              {one.text}
            </option>
          ))}
        </select>
        {setting && (
          <>
            {" "}
            to <Value key={path} setting={setting} set={setValue} />
          </>
        )}
        .
      </p>
      {lines.length > 0 && (
        <table>
          <tbody>
            {lines.map((line) => (
              <tr key={line.group}>
                <th scope="row">{line.group}</th>
                <td>{line.refused ? <span className="wrong">{line.refused}</span> : line.change}</td>
                <td>{line.change !== "no change" && line.cost_before && `${line.cost_before} → ${line.cost}`}</td>
                <td className={line.worse ? "wrong" : undefined}>
                  {line.change !== "no change" && line.kept && `promises kept ${line.kept_before} → ${line.kept}`}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <p className={its.actions}>
        <button
          type="button"
          className="solid-button"
          disabled={differing === 0 || change.isPending || lines.some((line) => line.refused)}
          onClick={() => change.mutate()}
        >
          {differing === 1 ? "Change it" : `Change these ${differing}`}
        </button>
        <button type="button" className="plain-button" onClick={close}>
          Leave it
        </button>
        {wrong && (
          <span className="wrong" role="alert">
            {wrong.message}
          </span>
        )}
      </p>
    </section>
  );
}

function Value({ setting, set }: { setting: ManySetting; set: (value: unknown) => void }) {
  const { editor } = setting;
  const choices = editor.choices ?? [];
  if (editor.kind !== "choice")
    return (
      <TypedBlank
        label="Its new value"
        how={{ measure: editor.measure, unit: editor.unit }}
        first=""
        set={(value) => set(value)}
      />
    );
  return (
    <select
      aria-label="Its new value"
      defaultValue=""
      onChange={(event) => set(choices[Number(event.target.value)]?.value ?? null)}
    >
      <option value="" disabled>
        what?
      </option>
      {choices.map((choice, place) => (
        <option key={choice.text} value={place}>
          {choice.text}
        </option>
      ))}
    </select>
  );
}
