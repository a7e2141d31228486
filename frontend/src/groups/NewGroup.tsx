import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { useNavigate } from "react-router";
import { answered, api, type PlanView } from "../api/client";

/** A new group, written as one sentence with blanks. */
export function NewGroup({ plan, close }: { plan: PlanView; close: () => void }) {
  const [name, setName] = useState("");
  const [template, setTemplate] = useState(plan.templates[0] ?? "");
  const [minimum, setMinimum] = useState(2);
  const [maximum, setMaximum] = useState(12);
  const [demand, setDemand] = useState(plan.demands[0] ?? "");
  const [milliseconds, setMilliseconds] = useState(50);
  const queries = useQueryClient();
  const navigate = useNavigate();
  const add = useMutation({
    mutationFn: () =>
      answered(
        api.POST("/api/plans/{plan_id}/groups", {
          params: { path: { plan_id: plan.id } },
          body: { name, template, minimum, maximum, demand, cpu_seconds: `${milliseconds} ms` },
        }),
      ),
    onSuccess: async () => {
      await queries.invalidateQueries();
      navigate(`/rehearse/${name}`);
    },
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    add.mutate();
  };
  return (
    <form className="new-group" onSubmit={submit} aria-label="New group">
      Run{" "}
      <input type="number" aria-label="Minimum" value={minimum} min={0} onChange={(e) => setMinimum(+e.target.value)} />{" "}
      to{" "}
      <input type="number" aria-label="Maximum" value={maximum} min={1} onChange={(e) => setMaximum(+e.target.value)} />{" "}
      instances of <Choice label="Launch template" value={template} options={plan.templates} set={setTemplate} /> as{" "}
      <input
        aria-label="Name"
        value={name}
        placeholder="name-of-group"
        required
        // biome-ignore lint/a11y/noAutofocus: the sentence was asked for, and its name comes first
        autoFocus
        onChange={(e) => setName(e.target.value)}
      />
      , for requests of{" "}
      <input
        type="number"
        aria-label="CPU of a request in milliseconds"
        value={milliseconds}
        min={1}
        onChange={(e) => setMilliseconds(+e.target.value)}
      />{" "}
      ms of CPU that come as in <Choice label="Demand" value={demand} options={plan.demands} set={setDemand} />.
      <div className="actions">
        <button type="submit" className="solid-button" disabled={add.isPending || name === ""}>
          Rehearse it
        </button>
        <button type="button" className="plain-button" onClick={close}>
          Leave it
        </button>
        {add.error && <span className="wrong">{add.error.message}</span>}
      </div>
    </form>
  );
}

function Choice(props: { label: string; value: string; options: string[]; set: (value: string) => void }) {
  return (
    <select aria-label={props.label} value={props.value} onChange={(e) => props.set(e.target.value)}>
      {props.options.map((option) => (
        <option key={option}>{option}</option>
      ))}
    </select>
  );
}
