import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { useNavigate } from "react-router";
import { answered, api, type PlanView } from "../../shared/api/client";
import { Choice } from "../../shared/words/Choice";
import { TypedBlank } from "../../shared/words/TypedBlank";
import its from "./groups.module.css";

const KINDS = {
  requests: { text: "requests of", unit: "ms", label: "CPU of a request", size: 0.05, first: "50 ms", after: "of CPU" },
  jobs: { text: "jobs of", unit: "s", label: "Time of a job", size: 20, first: "20 s", after: "" },
  sessions: {
    text: "sessions of",
    unit: "min",
    label: "Mean length of a session",
    size: 900,
    first: "15 min",
    after: "",
  },
} as const;
const INSTANCES = { measure: "number", unit: "instances" } as const;
type Kind = keyof typeof KINDS;

/** A new group, written as one sentence with blanks. */
export function NewGroup({ plan, demand: first, close }: { plan: PlanView; demand?: string; close: () => void }) {
  const [name, setName] = useState("");
  const [template, setTemplate] = useState(plan.templates[0] ?? "");
  const [machine, setMachine] = useState(plan.machines[0] ?? "");
  const [minimum, setMinimum] = useState<number | null>(2);
  const [maximum, setMaximum] = useState<number | null>(12);
  const [demand, setDemand] = useState(first ?? plan.demands[0] ?? "");
  const [kind, setKind] = useState<Kind>("requests");
  const [size, setSize] = useState<number | null>(KINDS.requests.size);
  const [seats, setSeats] = useState<number | null>(100);
  const queries = useQueryClient();
  const navigate = useNavigate();
  const leftOpen = plan.open_machine.includes(template);
  const words = KINDS[kind];
  const unread = [minimum, maximum, size, seats].includes(null);
  const add = useMutation({
    mutationFn: () =>
      answered(
        api.POST("/api/plans/{plan_id}/groups", {
          params: { path: { plan_id: plan.id } },
          body: {
            name,
            template,
            minimum: minimum ?? 0,
            maximum: maximum ?? 0,
            demand,
            kind,
            size,
            seats: seats ?? 0,
            machine: leftOpen ? machine : null,
          },
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
    <form className={its.newGroup} onSubmit={submit} aria-label="New group">
      Run <TypedBlank label="Minimum" how={INSTANCES} first="2" set={setMinimum} /> to{" "}
      <TypedBlank label="Maximum" how={INSTANCES} first="12" set={setMaximum} /> instances of{" "}
      <Choice label="Launch template" value={template} options={plan.templates} set={setTemplate} />
      {leftOpen && (
        <>
          {" "}
          on <Choice label="Machine type" value={machine} options={plan.machines} set={setMachine} />
        </>
      )}{" "}
      as{" "}
      <input
        aria-label="Name"
        value={name}
        placeholder="name-of-group"
        required
        // biome-ignore lint/a11y/noAutofocus: the sentence was asked for, and its name comes first
        autoFocus
        onChange={(e) => setName(e.target.value)}
      />
      , for{" "}
      <select
        aria-label="Kind of work"
        value={kind}
        onChange={(e) => {
          setKind(e.target.value as Kind);
          setSize(KINDS[e.target.value as Kind].size);
        }}
      >
        {Object.entries(KINDS).map(([value, { text }]) => (
          <option key={value} value={value}>
            {text}
          </option>
        ))}
      </select>{" "}
      <TypedBlank
        key={kind}
        label={words.label}
        how={{ measure: "duration", unit: words.unit }}
        first={words.first}
        set={setSize}
      />{" "}
      {words.after}
      {kind === "sessions" && (
        <>
          , with <TypedBlank label="Seats" how={{ measure: "number", unit: "seats" }} first="100" set={setSeats} />{" "}
          seats on each instance,
        </>
      )}{" "}
      that come as in <Choice label="Demand" value={demand} options={plan.demands} set={setDemand} />.
      <div className={its.actions}>
        <button type="submit" className="solid-button" disabled={add.isPending || name === "" || unread}>
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
