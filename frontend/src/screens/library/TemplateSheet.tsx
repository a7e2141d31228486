import { useDebouncedValue } from "@mantine/hooks";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { clsx } from "clsx";
import { useState } from "react";
import { answered, api, type TemplateView, type VersionView } from "../../shared/api/client";
import { useKept } from "../../shared/words/useKept";
import { FieldInput } from "./FieldInput";
import its from "./library.module.css";

type Draft = Record<string, string>;

// So many of the newest versions are shown; older ones only where a group runs them.
const NEWEST = 3;

/** A template as a sheet: its versions side by side, newest first, and the next one as it is written. */
export function TemplateSheet({ plan, template }: { plan: number; template: TemplateView }) {
  const [all, setAll] = useState(false);
  const [draft, setDraft] = useKept<Draft>(`jostle.draft ${plan} ${template.name}`);
  const queries = useQueryClient();
  const newest = template.versions[0];
  const [asked] = useDebouncedValue(draft, 200);
  const path = { plan_id: plan, name: template.name };
  const fields = useQuery({
    queryKey: ["template fields", plan],
    queryFn: () => answered(api.GET("/api/plans/{plan_id}/templates/fields", { params: { path: { plan_id: plan } } })),
  });
  const look = useQuery({
    queryKey: ["draft", plan, template.name, template.versions.length, asked],
    enabled: asked !== null && draft !== null,
    placeholderData: (before) => before,
    queryFn: () =>
      answered(
        api.POST("/api/plans/{plan_id}/templates/{name}/drafts", { params: { path }, body: { fields: asked ?? {} } }),
      ),
  });
  const save = useMutation({
    mutationFn: (written: Draft) =>
      answered(
        api.POST("/api/plans/{plan_id}/templates/{name}/written", { params: { path }, body: { fields: written } }),
      ),
    onSuccess: async () => {
      setDraft(null);
      await queries.invalidateQueries();
    },
  });
  const remove = useMutation({
    mutationFn: () => api.DELETE("/api/plans/{plan_id}/templates/{name}", { params: { path } }),
    onSuccess: () => queries.invalidateQueries(),
  });
  if (!newest) return null;
  const shown = template.versions.filter((version, place) => all || place < NEWEST || version.used_by.length > 0);
  const folded = template.versions.length - shown.length;
  return (
    <section className={its.sheet} aria-label={template.name}>
      <div className={its.sheetHead}>
        <h1>{template.name}</h1>
        {draft === null && template.versions.every((version) => version.used_by.length === 0) && (
          <button type="button" className="plain-button" onClick={() => remove.mutate()}>
            take out
          </button>
        )}
        {draft === null && (
          <button
            type="button"
            className="plain-button"
            onClick={() => setDraft({ ...newest.written, note: "", author: "" })}
          >
            write version {newest.number + 1}
          </button>
        )}
        {(folded > 0 || all) && (
          <button type="button" className="plain-button" aria-expanded={all} onClick={() => setAll(!all)}>
            {all ? "fold the versions that run nowhere" : `${folded} older that run nowhere`}
          </button>
        )}
        {draft && (
          <span className="quiet" role="status">
            {newest.used_by.length === 0 && "No group follows this template."}
            {look.data?.effects.map((effect) => (
              <span key={effect.group}>
                {effect.group}{" "}
                {effect.refused ??
                  (effect.now === effect.then ? `stays at ${effect.now}` : `${effect.now} → ${effect.then}`)}
                .{" "}
              </span>
            ))}
          </span>
        )}
      </div>
      {save.error && (
        <p className="notice" role="alert">
          {save.error.message}
        </p>
      )}
      <form
        onSubmit={(event) => {
          event.preventDefault();
          if (draft) save.mutate(draft);
        }}
      >
        <table>
          <thead>
            <tr>
              <th scope="col">
                <span className="sr">Field</span>
              </th>
              {draft && <th scope="col">version {newest.number + 1}</th>}
              {shown.map((version) => (
                <th key={version.number} scope="col">
                  version {version.number}
                  <small>{usedBy(version)}</small>
                  {version.version.made && <small>made {version.version.made}</small>}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {fields.data?.map((field) => (
              <tr key={field.name}>
                <th scope="row">{field.label}</th>
                {draft && (
                  <td className={draft[field.name] === newest.written[field.name] ? undefined : its.differs}>
                    <FieldInput
                      field={field}
                      text={draft[field.name] ?? ""}
                      change={(text) => setDraft({ ...draft, [field.name]: text })}
                    />
                    {look.data?.findings
                      .filter((one) => one.field === field.name)
                      .map((one) => (
                        <small key={one.text} className={clsx(its.fieldFinding, its[one.severity])} role="status">
                          {one.text}
                        </small>
                      ))}
                  </td>
                )}
                {shown.map((version) => {
                  const differs = version.differs.includes(field.name);
                  const text = version.written[field.name];
                  return (
                    <td key={version.number} className={differs ? its.differs : undefined}>
                      {text ? (
                        <span className={its.written}>{text}</span>
                      ) : (
                        field.name !== "note" && field.name !== "author" && <i className={its.open}>not set</i>
                      )}
                      {differs && <span className="sr"> (differs from version {version.number - 1})</span>}
                    </td>
                  );
                })}
              </tr>
            ))}
          </tbody>
        </table>
        {draft && (
          <div className={its.actions}>
            <button type="submit" className="solid-button" disabled={save.isPending}>
              Save version {newest.number + 1}
            </button>
            <button type="button" className="plain-button" onClick={() => setDraft(null)}>
              put it back
            </button>
          </div>
        )}
      </form>
    </section>
  );
}

function usedBy(version: VersionView): string {
  return version.used_by.length ? `runs in ${version.used_by.join(", ")}` : "runs nowhere";
}
