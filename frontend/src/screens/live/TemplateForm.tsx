import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { answered, api } from "../../shared/api/client";
import its from "./live.module.css";

interface Props {
  plan: number;
  group: string;
  instance: number;
}

/** A launch template made of a running instance, and of its disk where an image is named. */
export function TemplateForm({ plan, group, instance }: Props) {
  const queries = useQueryClient();
  const [name, setName] = useState(`${group}-${instance}`);
  const [image, setImage] = useState("");
  const made = useMutation({
    mutationFn: () =>
      answered(
        api.POST("/api/plans/{plan_id}/live/groups/{group}/instances/{number}/template", {
          params: { path: { plan_id: plan, group, number: instance } },
          body: { name, image: image || null },
        }),
      ),
    onSuccess: () => {
      void queries.invalidateQueries({ queryKey: ["plan"] });
      void queries.invalidateQueries({ queryKey: ["templates", plan] });
    },
  });
  return (
    <form
      className={its.asked}
      aria-label="Make a template"
      onSubmit={(event) => {
        event.preventDefault();
        made.mutate();
      }}
    >
      Make the launch template{" "}
      <input aria-label="Name of the template" value={name} onChange={(event) => setName(event.target.value)} /> as
      instance {instance} runs, with its disk as the image{" "}
      <input
        aria-label="Name of the image"
        placeholder="none"
        value={image}
        onChange={(event) => setImage(event.target.value)}
      />
      <button type="submit" className="solid-button" disabled={!name || made.isPending}>
        Make it
      </button>
      {made.error && <span className="wrong">{made.error.message}</span>}
      {made.data && (
        <span role="status" className="quiet">
          {made.data.name} has version {made.data.versions[0]?.number} now; it stands in the Library.
        </span>
      )}
    </form>
  );
}
