import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { answered, api } from "../api/client";

interface Props {
  plan: number;
  groups: string[];
  like: string | undefined;
}

/** A new template, begun like another one or from what a group launches. */
export function NewTemplate({ plan, groups, like }: Props) {
  const [name, setName] = useState<string | null>(null);
  const [source, setSource] = useState("");
  const queries = useQueryClient();
  const navigate = useNavigate();
  const add = useMutation({
    mutationFn: () => {
      const group = source.startsWith("group ") ? source.slice(6) : null;
      return answered(
        api.POST("/api/plans/{plan_id}/templates", {
          params: { path: { plan_id: plan } },
          body: { name: name ?? "", like_group: group, like: group ? null : (like ?? null) },
        }),
      );
    },
    onSuccess: async (made) => {
      setName(null);
      await queries.invalidateQueries();
      navigate(`/library/templates/${made.name}`);
    },
  });
  if (name === null)
    return (
      <p className="new-one">
        <button type="button" className="plain-button" onClick={() => setName("")}>
          a new template
        </button>
      </p>
    );
  return (
    <form
      className="new-one"
      onSubmit={(event) => {
        event.preventDefault();
        add.mutate();
      }}
    >
      <input
        aria-label="Name of the new template"
        placeholder="name-of-template"
        value={name}
        // biome-ignore lint/a11y/noAutofocus: it was just asked for
        autoFocus
        onChange={(event) => setName(event.target.value)}
        onKeyDown={(event) => event.key === "Escape" && setName(null)}
      />
      <select aria-label="Begun like" value={source} onChange={(event) => setSource(event.target.value)}>
        <option value="">like {like}</option>
        {groups.map((group) => (
          <option key={group} value={`group ${group}`}>
            as {group} launches
          </option>
        ))}
      </select>{" "}
      <button type="submit" className="plain-button" disabled={!name || add.isPending}>
        begin it
      </button>
      {add.error && <span className="wrong"> {add.error.message}</span>}
    </form>
  );
}
