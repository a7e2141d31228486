import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { answered, api, type NetworkLine, type PlanView } from "../../shared/api/client";
import { sent } from "../../shared/api/form";
import { FileChoice, SERIES_FILES } from "../../shared/files/FileChoice";
import { keptBy } from "../../shared/gesture/handling";
import { Words } from "../../shared/words/Words";
import its from "./library.module.css";

type Change = { op: "set" | "add" | "remove"; path: string; value?: unknown };

/** What instances stand in and behind: subnets with their zones, firewall rules, databases; and metrics that come from outside. */
export function NetworkPart({ plan }: { plan: PlanView }) {
  const queries = useQueryClient();
  const params = { path: { plan_id: plan.id } };
  const [gaps, setGaps] = useState("hold");
  const network = useQuery({
    queryKey: ["network", plan.id],
    queryFn: () => answered(api.GET("/api/plans/{plan_id}/network", { params })),
  });
  const change = useMutation({
    scope: { id: "network" },
    mutationFn: (body: Change) => answered(api.POST("/api/plans/{plan_id}/network/changes", { params, body })),
    onSuccess: () => queries.invalidateQueries(),
  });
  const bring = useMutation({
    mutationFn: ({ file, name }: { file: File; name: string }) => {
      const body = new FormData();
      body.append("file", file);
      body.append("name", name);
      body.append("gaps", gaps);
      return answered(api.POST("/api/plans/{plan_id}/network/outside", { params, ...sent(body) }));
    },
    onSuccess: () => queries.invalidateQueries(),
  });
  const handling = keptBy((path, value) => change.mutateAsync({ op: "set", path, value }));
  const add = (part: string) => (name: string) => change.mutate({ op: "add", path: part, value: name });
  const lines = (part: string, ones: NetworkLine[] | undefined) =>
    ones?.map((one) => (
      <p key={one.name} className={its.networkLine} data-part={part} data-name={one.name}>
        <b>{one.name}</b> <Words words={one.words} handling={handling} />{" "}
        {one.used_by.length > 0 ? (
          <small className="quiet">used by {one.used_by.join(", ")}</small>
        ) : (
          <button
            type="button"
            className="plain-button"
            aria-label={`take out ${one.name}`}
            onClick={() => change.mutate({ op: "remove", path: `${part}.${one.name}` })}
          >
            take out
          </button>
        )}
      </p>
    ));
  const wrong = change.error ?? bring.error ?? network.error;
  return (
    <section className={`${its.sheet} ${its.network}`} aria-label="Network">
      {wrong && (
        <p className="notice" role="alert">
          {wrong.message}
        </p>
      )}
      <h1>Subnets</h1>
      <p className="quiet">A group stands in the zones of its subnets, and spreads over them.</p>
      {lines("subnets", network.data?.subnets)}
      <Named text="+ subnet" label="Name of the new subnet" keep={add("subnets")} />
      <h1>Firewall rules</h1>
      <p className="quiet">What is let in to instances whose template names the rule.</p>
      {lines("firewall", network.data?.firewall)}
      <Named text="+ firewall rule" label="Name of the new firewall rule" keep={add("firewall")} />
      <h1>Databases</h1>
      <p className="quiet">What instances ask and keep their data with, beside the groups.</p>
      {lines("databases", network.data?.databases)}
      <Named text="+ database" label="Name of the new database" keep={add("databases")} />
      <h1>Outside metrics</h1>
      <p className="quiet">
        Measured elsewhere and brought as a file, for policies to watch: a queue of another system, a forecast of
        guests.
      </p>
      {lines("outside", network.data?.outside)}
      <p className={its.newOne}>
        <FileChoice
          text="bring a file"
          accept={SERIES_FILES}
          choose={(file) => bring.mutate({ file, name: nameOf(file.name) })}
        />{" "}
        whose missing rows are{" "}
        <select aria-label="Missing rows" value={gaps} onChange={(event) => setGaps(event.target.value)}>
          <option value="hold">the last value</option>
          <option value="line">a line</option>
          <option value="zero">nothing</option>
        </select>
      </p>
    </section>
  );
}

/** A name as names are written, of a file. */
function nameOf(file: string): string {
  const plain = file.toLowerCase().replace(/\.[a-z]+$/, "");
  return plain.replace(/[^a-z0-9]+/g, "-").replace(/^-|-$/g, "");
}

function Named({ text, label, keep }: { text: string; label: string; keep: (name: string) => void }) {
  const [name, setName] = useState<string | null>(null);
  return (
    <p className={its.newOne}>
      {name === null ? (
        <button type="button" className="plain-button" onClick={() => setName("")}>
          {text}
        </button>
      ) : (
        <input
          aria-label={label}
          placeholder="a name, then Enter"
          value={name}
          // biome-ignore lint/a11y/noAutofocus: it was just asked for
          autoFocus
          onChange={(event) => setName(event.target.value)}
          onKeyDown={(event) => {
            if (event.key === "Escape") setName(null);
            if (event.key !== "Enter" || name === "") return;
            keep(name);
            setName(null);
          }}
        />
      )}
    </p>
  );
}
