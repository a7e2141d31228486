import { useDebouncedValue } from "@mantine/hooks";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { answered, api, type TemplateVersion, type TemplateView, type VersionView } from "../../shared/api/client";

type Field = Exclude<keyof TemplateVersion, "note">;

const FIELDS: [Field, string, "text" | "number" | "list" | "flag" | "tags"][] = [
  ["image", "Image", "text"],
  ["machine_type", "Machine type", "text"],
  ["disk_gib", "Disk, GiB", "number"],
  ["public_address", "Public address", "flag"],
  ["subnets", "Subnets", "list"],
  ["firewall", "Firewall rules", "list"],
  ["key", "Key", "text"],
  ["identity", "Identity", "text"],
  ["start_up", "Start-up script", "text"],
  ["tags", "Tags", "tags"],
  ["boot_time", "Boot time, s", "number"],
  ["start_time", "Start from stopped, s", "number"],
  ["warm_up", "Warm-up, s", "number"],
  ["health_check", "Health check", "text"],
];

/** A template as a sheet: its versions side by side, newest first, and the next one as it is written. */
export function TemplateSheet({ plan, template }: { plan: number; template: TemplateView }) {
  const [draft, setDraft] = useState<Record<string, string> | null>(null);
  const queries = useQueryClient();
  const newest = template.versions[0];
  const [asked] = useDebouncedValue(draft, 200);
  const findings = useQuery({
    queryKey: ["draft", plan, asked],
    enabled: asked !== null && draft !== null,
    placeholderData: (before) => before,
    queryFn: () =>
      answered(
        api.POST("/api/plans/{plan_id}/templates/findings", {
          params: { path: { plan_id: plan } },
          body: written(asked ?? {}) as never,
        }),
      ),
  });
  const save = useMutation({
    mutationFn: (version: TemplateVersion) =>
      answered(
        api.POST("/api/plans/{plan_id}/templates/{name}/versions", {
          params: { path: { plan_id: plan, name: template.name } },
          body: version,
        }),
      ),
    onSuccess: async () => {
      setDraft(null);
      await queries.invalidateQueries();
    },
  });
  if (!newest) return null;
  const begin = () =>
    setDraft({ note: "", ...Object.fromEntries(FIELDS.map(([field]) => [field, said(newest.version[field])])) });
  return (
    <section className="sheet" aria-label={template.name}>
      <div className="sheet-head">
        <h1>{template.name}</h1>
        {draft === null && (
          <button type="button" className="plain-button" onClick={begin}>
            write version {newest.number + 1}
          </button>
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
          if (draft) save.mutate(written(draft));
        }}
      >
        <table>
          <thead>
            <tr>
              <th scope="col">
                <span className="sr">Field</span>
              </th>
              {draft && <th scope="col">version {newest.number + 1}</th>}
              {template.versions.map((version) => (
                <th key={version.number} scope="col">
                  version {version.number}
                  <small>{usedBy(version)}</small>
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            <tr>
              <th scope="row">Note</th>
              {draft && (
                <td>
                  <input
                    aria-label="Note"
                    placeholder="why this version is made"
                    value={draft.note}
                    onChange={(event) => setDraft({ ...draft, note: event.target.value })}
                  />
                </td>
              )}
              {template.versions.map((version) => (
                <td key={version.number}>{version.version.note}</td>
              ))}
            </tr>
            {FIELDS.map(([field, label]) => (
              <tr key={field}>
                <th scope="row">{label}</th>
                {draft && (
                  <td className={draft[field] === said(newest.version[field]) ? undefined : "differs"}>
                    <input
                      aria-label={label}
                      placeholder="left open"
                      value={draft[field]}
                      onChange={(event) => setDraft({ ...draft, [field]: event.target.value })}
                    />
                    {findings.data
                      ?.filter((one) => one.field === field)
                      .map((one) => (
                        <small key={one.text} className={`field-finding ${one.severity}`} role="status">
                          {one.text}
                        </small>
                      ))}
                  </td>
                )}
                {template.versions.map((version, position) => {
                  const before = template.versions[position + 1];
                  const text = said(version.version[field]);
                  const differs = before !== undefined && text !== said(before.version[field]);
                  return (
                    <td key={version.number} className={differs ? "differs" : undefined}>
                      {text || <i className="open">open</i>}
                      {differs && <span className="sr"> (differs from version {before?.number})</span>}
                    </td>
                  );
                })}
              </tr>
            ))}
          </tbody>
        </table>
        {draft && (
          <div className="actions">
            <button type="submit" className="solid-button" disabled={save.isPending}>
              Save version {newest.number + 1}
            </button>
            <button type="button" className="plain-button" onClick={() => setDraft(null)}>
              put it back
            </button>
            <span className="quiet">
              {newest.used_by.length > 0
                ? `${newest.used_by.join(", ")} will follow it.`
                : "No group follows this template."}
            </span>
          </div>
        )}
      </form>
    </section>
  );
}

function usedBy(version: VersionView): string {
  return version.used_by.length ? `runs in ${version.used_by.join(", ")}` : "runs nowhere";
}

function said(value: TemplateVersion[Field]): string {
  if (value === null || value === undefined) return "";
  if (Array.isArray(value)) return value.join(", ");
  if (typeof value === "boolean") return value ? "yes" : "no";
  if (typeof value === "object")
    return Object.entries(value)
      .map((pair) => pair.join("="))
      .join(", ");
  return String(value);
}

/** The version that a draft's texts stand for; an empty one leaves its field open. The server says what is wrong. */
function written(draft: Record<string, string>): TemplateVersion {
  const version: Record<string, unknown> = { note: draft.note };
  for (const [field, , kind] of FIELDS) {
    const text = draft[field]?.trim();
    if (!text) continue;
    const parts = text.split(",").map((part) => part.trim());
    if (kind === "list") version[field] = parts;
    else if (kind === "flag") version[field] = text === "yes" ? true : text === "no" ? false : text;
    else if (kind === "tags") version[field] = Object.fromEntries(parts.map((part) => part.split("=", 2)));
    else version[field] = kind === "number" && text !== "" && !Number.isNaN(+text) ? +text : text;
  }
  return version as TemplateVersion;
}
