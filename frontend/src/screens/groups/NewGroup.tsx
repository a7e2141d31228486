import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useRef } from "react";
import { useNavigate } from "react-router";
import { answered, api, type PlanView } from "../../shared/api/client";
import { Choice } from "../../shared/words/Choice";
import { NameToggles } from "../../shared/words/NameToggles";
import { TypedBlank } from "../../shared/words/TypedBlank";
import { useKept } from "../../shared/words/useKept";
import { GroupWeek } from "./GroupWeek";
import its from "./groups.module.css";
import { StartsPanel } from "./StartsPanel";

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
  hosting: { text: "carrying copies", unit: "", label: "", size: 0, first: "", after: "" },
} as const;
type Kind = keyof typeof KINDS;
interface Sentence {
  name: string;
  template: string;
  /** The host on which its copies run, in place of a template. */
  host: string | null;
  vcpus: number | null;
  memory: number | null;
  machine: string;
  minimum: number | null;
  maximum: number | null;
  start: "minimum" | "other";
  count: number | null;
  policies: "suited" | "none";
  demand: string;
  kind: Kind;
  size: number | null;
  seats: number | null;
  balancer: boolean;
  /** What it is begun from, in place of policies that suit its work. */
  like: string | null;
  subnets: string[];
  firewall: string[];
  /** A template that is written with the group. */
  made: { name: string; boot: number | null; warm: number | null } | null;
}

const NEW_TEMPLATE = "a new template…";
const ON = "on host ";

/** A new group, written as one sentence with blanks. */
export function NewGroup({ plan, demand: first, close }: { plan: PlanView; demand?: string; close: () => void }) {
  const [kept, keep] = useKept<Sentence>(`jostle.new-group ${plan.id} ${first ?? ""}`);
  const written: Sentence = kept ?? {
    name: "",
    template: plan.templates[0] ?? "",
    host: null,
    vcpus: 0.5,
    memory: 1,
    machine: plan.machines[0] ?? "",
    minimum: 2,
    maximum: 12,
    start: "minimum",
    count: 4,
    policies: "suited",
    demand: first ?? plan.demands[0] ?? "",
    kind: "requests",
    size: KINDS.requests.size,
    seats: 100,
    balancer: false,
    like: null,
    subnets: Object.keys(plan.subnets),
    firewall: [],
    made: null,
  };
  const newest = useRef(written);
  newest.current = written;
  const write = (change: Partial<Sentence>) => {
    newest.current = { ...newest.current, ...change };
    keep(newest.current);
  };
  const { name, template, machine, minimum, maximum, demand, kind, size, seats } = written;
  const queries = useQueryClient();
  const navigate = useNavigate();
  const { made } = written;
  const { host } = written;
  const open = host ? [] : made ? ["machine", "subnets", "firewall"] : (plan.left_open[template] ?? []);
  const words = KINDS[kind];
  const elsewhere = written.start === "other";
  const unread = [
    ...[minimum, maximum, size, seats],
    ...(elsewhere ? [written.count] : []),
    ...(made ? [made.boot, made.warm] : []),
    ...(host ? [written.vcpus, written.memory] : []),
  ].includes(null);
  const params = { path: { plan_id: plan.id } };
  const asked = {
    template: host ? "" : template,
    host,
    vcpus: written.vcpus,
    memory_gib: written.memory,
    minimum: minimum ?? 0,
    maximum: maximum ?? 0,
    demand,
    kind,
    size,
    seats: seats ?? 0,
    machine: open.includes("machine") && !made ? machine : null,
    subnets: open.includes("subnets") && written.subnets.length > 0 ? written.subnets : null,
    firewall: open.includes("firewall") && written.firewall.length > 0 ? written.firewall : null,
    start_count: elsewhere ? written.count : null,
    with_policies: written.policies === "suited",
    load_balancer: written.balancer,
    start: written.like,
    new_template: made && { name: made.name, machine, image: "", boot_time: made.boot, warm_up: made.warm },
  };
  const seen = useQuery({
    queryKey: ["new group", plan.id, plan.revision, asked],
    enabled: !unread && (made === null || made.name !== ""),
    placeholderData: (before) => before,
    retry: false,
    queryFn: () => answered(api.POST("/api/plans/{plan_id}/groups/look", { params, body: { name: "", ...asked } })),
  });
  const add = useMutation({
    mutationFn: () => answered(api.POST("/api/plans/{plan_id}/groups", { params, body: { name, ...asked } })),
    onSuccess: async () => {
      keep(null);
      await queries.invalidateQueries();
      navigate(`/rehearse/${name}`);
    },
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    add.mutate();
  };
  const blank = (label: string, field: "minimum" | "maximum" | "count" | "seats", unit = "instances") => (
    <TypedBlank
      key={`${field} ${written.like}`}
      label={label}
      how={{ measure: "number", unit }}
      first={String(written[field] ?? "")}
      set={(value) => write({ [field]: value })}
    />
  );
  return (
    <form className={its.newGroup} onSubmit={submit} aria-label="New group">
      Run, behind{" "}
      <select
        aria-label="Load balancer"
        value={written.balancer ? "one" : "none"}
        onChange={(e) => write({ balancer: e.target.value === "one" })}
      >
        <option value="none">no load balancer</option>
        <option value="one">a load balancer</option>
      </select>
      , {blank("Minimum", "minimum")} to {blank("Maximum", "maximum")} {host ? "copies" : "instances of"}{" "}
      <Choice
        label="Launch template"
        value={host ? `${ON}${host}` : made ? NEW_TEMPLATE : template}
        options={[...plan.templates, ...plan.hosts.map((one) => `${ON}${one}`), NEW_TEMPLATE]}
        set={(value) => {
          if (value === NEW_TEMPLATE) write({ host: null, made: { name: "", boot: 60, warm: 30 } });
          else if (value.startsWith(ON)) write({ host: value.slice(ON.length), made: null, like: null });
          else write({ template: value, host: null, made: null });
        }}
      />
      {host && (
        <>
          , each with{" "}
          <TypedBlank
            label="vCPUs of a copy"
            how={{ measure: "number", unit: "vCPUs" }}
            first={String(written.vcpus ?? "")}
            set={(value) => write({ vcpus: value })}
          />{" "}
          vCPUs and{" "}
          <TypedBlank
            label="Memory of a copy"
            how={{ measure: "number", unit: "GiB" }}
            first={String(written.memory ?? "")}
            set={(value) => write({ memory: value })}
          />{" "}
          GiB,
        </>
      )}
      {made && (
        <>
          {" "}
          called{" "}
          <input
            aria-label="Name of the new template"
            value={made.name}
            placeholder="name-of-template"
            required
            onChange={(e) => write({ made: { ...made, name: e.target.value } })}
          />
          , which boots in{" "}
          <TypedBlank
            label="Boot time"
            how={{ measure: "duration", unit: "s" }}
            first={`${made.boot ?? 60} s`}
            set={(value) => write({ made: { ...made, ...newest.current.made, boot: value } })}
          />{" "}
          and warms up for{" "}
          <TypedBlank
            label="Warm-up"
            how={{ measure: "duration", unit: "s" }}
            first={`${made.warm ?? 30} s`}
            set={(value) => write({ made: { ...made, ...newest.current.made, warm: value } })}
          />
          ,
        </>
      )}
      {open.includes("machine") && (
        <>
          {" "}
          on{" "}
          <Choice
            label="Machine type"
            value={machine}
            options={plan.machines}
            set={(value) => write({ machine: value })}
          />
          {plan.free[machine] && <small className="quiet"> ({plan.free[machine]} are free, over all groups)</small>}
        </>
      )}
      {open.includes("subnets") && (
        <>
          {" "}
          in{" "}
          <NameToggles
            label="Subnets"
            names={Object.entries(plan.subnets).map(([one, zone]) => ({ name: one, about: `zone ${zone}` }))}
            chosen={written.subnets}
            choose={(subnets) => write({ subnets })}
          />
        </>
      )}
      {open.includes("firewall") && plan.firewall.length > 0 && (
        <>
          {" "}
          which let in{" "}
          <NameToggles
            label="Firewall rules"
            names={plan.firewall.map((one) => ({ name: one }))}
            chosen={written.firewall}
            choose={(firewall) => write({ firewall })}
          />
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
        onChange={(e) => write({ name: e.target.value })}
      />
      , for{" "}
      <select
        aria-label="Kind of work"
        value={kind}
        onChange={(e) => {
          const next = e.target.value as Kind;
          write({ kind: next, size: KINDS[next].size, like: null });
        }}
      >
        {Object.entries(KINDS).map(([value, { text }]) => (
          <option key={value} value={value}>
            {text}
          </option>
        ))}
      </select>{" "}
      {kind !== "hosting" && (
        <TypedBlank
          key={kind}
          label={words.label}
          how={{ measure: "duration", unit: words.unit }}
          first={size === null || size === words.size ? words.first : `${size} s`}
          set={(value) => write({ size: value })}
        />
      )}{" "}
      {words.after}
      {kind === "sessions" && <>, with {blank("Seats", "seats", "seats")} seats on each instance,</>}
      {kind === "hosting" ? " with the incidents of" : " that come as in"}{" "}
      <Choice label="Demand" value={demand} options={plan.demands} set={(value) => write({ demand: value })} />; it
      starts with{" "}
      <select
        aria-label="At the start"
        value={written.start}
        onChange={(e) => write({ start: e.target.value as Sentence["start"] })}
      >
        <option value="minimum">the minimum</option>
        <option value="other">another count:</option>
      </select>{" "}
      {elsewhere && blank("Starting count", "count")} and{" "}
      <select
        aria-label="Policies"
        value={written.policies}
        onChange={(e) => write({ policies: e.target.value as Sentence["policies"], like: null })}
      >
        <option value="suited">{written.like ? "all that it is begun from" : "policies that suit it"}</option>
        <option value="none">no policy yet</option>
      </select>
      .
      <div className={its.actions}>
        <button type="submit" className="solid-button" disabled={add.isPending || name === "" || unread}>
          Keep it
        </button>
        <button
          type="button"
          className="plain-button"
          onClick={() => {
            keep(null);
            close();
          }}
        >
          Leave it
        </button>
        {(add.error ?? seen.error) && <span className="wrong">{(add.error ?? seen.error)?.message}</span>}
      </div>
      {!unread && !host && kind !== "hosting" && (
        <StartsPanel plan={plan} asked={asked} like={written.like} take={write} />
      )}
      {seen.data && !seen.error && (
        <section className={`${its.groupRow} ${its.looked}`} aria-label="Its week" aria-busy={seen.isFetching}>
          <p className="quiet">Its week, before anything is kept: {seen.data.line}.</p>
          <GroupWeek row={seen.data} />
        </section>
      )}
    </form>
  );
}
