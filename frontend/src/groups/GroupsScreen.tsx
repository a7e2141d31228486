import "./groups.css";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type ChangeEvent, useState } from "react";
import { Link, useNavigate } from "react-router";
import { answered, api, type GroupRow, isProblem, Refusal } from "../api/client";
import { usePlan } from "../app/plan";
import { NewGroup } from "./NewGroup";
import { Outline } from "./Outline";

/** The groups of the plan, those that break a promise first; without a plan, what Jostle is for. */
export function GroupsScreen() {
  const { plan, none, error } = usePlan();
  const [adding, setAdding] = useState(false);
  const rows = useQuery({
    queryKey: ["groups", plan?.id],
    enabled: plan !== undefined,
    queryFn: () => answered(api.GET("/api/plans/{plan_id}/groups", { params: { path: { plan_id: plan?.id ?? 0 } } })),
  });
  const queries = useQueryClient();
  const plan_id = plan?.id ?? 0;
  const copy = useMutation({
    mutationFn: ({ group, name }: { group: string; name: string }) =>
      answered(
        api.POST("/api/plans/{plan_id}/groups/{group}/copies", {
          params: { path: { plan_id, group } },
          body: { name },
        }),
      ),
    onSuccess: () => queries.invalidateQueries(),
  });
  const retire = useMutation({
    mutationFn: async (group: string) => {
      const { error } = await api.DELETE("/api/plans/{plan_id}/groups/{group}", {
        params: { path: { plan_id, group } },
      });
      if (error) throw new Refusal(isProblem(error) ? error.detail : "It could not be retired.", 0);
      return group;
    },
    onSuccess: () => queries.invalidateQueries(),
  });
  const bringBack = useMutation({
    mutationFn: (group: string) =>
      answered(api.POST("/api/plans/{plan_id}/groups/{group}/return", { params: { path: { plan_id, group } } })),
    onSuccess: async () => {
      retire.reset();
      await queries.invalidateQueries();
    },
  });
  if (none) return <Empty />;
  const broken = rows.data?.filter((row) => row.promises.some((promise) => !promise.kept)).length ?? 0;
  return (
    <main className="groups">
      <div className="groups-head">
        <h1>{plan?.name}</h1>
        {rows.data && (
          <p>
            {rows.data.length} {rows.data.length === 1 ? "group" : "groups"};{" "}
            {broken > 0 ? `${broken} ${broken === 1 ? "breaks" : "break"} a promise` : "every promise is kept"}.
          </p>
        )}
        <button type="button" className="plain-button" style={{ marginLeft: "auto" }} onClick={() => setAdding(true)}>
          New group
        </button>
      </div>
      {(error ?? rows.error) && <p className="notice">{(error ?? rows.error)?.message}</p>}
      {rows.isPending && !error && <p style={{ padding: "10px 24px" }}>Rehearsing the groups</p>}
      {retire.data && (
        <p className="retired" role="status">
          {retire.data} is retired; its arrangements stay.{" "}
          <button type="button" className="plain-button" onClick={() => bringBack.mutate(retire.data)}>
            Bring it back
          </button>
        </p>
      )}
      {(copy.error ?? retire.error) && <p className="notice">{(copy.error ?? retire.error)?.message}</p>}
      {rows.data?.map((row) => (
        <Row
          key={row.name}
          row={row}
          copy={(name) => copy.mutate({ group: row.name, name })}
          retire={() => retire.mutate(row.name)}
        />
      ))}
      {adding && plan && <NewGroup plan={plan} close={() => setAdding(false)} />}
    </main>
  );
}

interface RowProps {
  row: GroupRow;
  copy: (name: string) => void;
  retire: () => void;
}

function Row({ row, copy, retire }: RowProps) {
  const [naming, setNaming] = useState(false);
  const errors = row.findings.error ?? 0;
  const warnings = row.findings.warning ?? 0;
  const found = [
    errors > 0 && `${errors} ${errors === 1 ? "error" : "errors"}`,
    warnings > 0 && `${warnings} ${warnings === 1 ? "warning" : "warnings"}`,
  ].filter(Boolean);
  return (
    <article className="group-row" aria-label={row.name}>
      <div>
        <h2>
          <Link to={`/rehearse/${row.name}`}>{row.name}</Link>
        </h2>
        <p className="line">{row.line}</p>
        <p className="acts">
          {naming ? (
            <input
              aria-label={`Name of the copy of ${row.name}`}
              placeholder="name-of-copy"
              // biome-ignore lint/a11y/noAutofocus: the copy was asked for, and its name comes first
              autoFocus
              onBlur={() => setNaming(false)}
              onKeyDown={(event) => {
                if (event.key === "Escape") setNaming(false);
                if (event.key !== "Enter") return;
                copy(event.currentTarget.value);
                setNaming(false);
              }}
            />
          ) : (
            <button type="button" className="plain-button" onClick={() => setNaming(true)}>
              copy
            </button>
          )}
          <button type="button" className="plain-button" onClick={retire}>
            retire
          </button>
        </p>
      </div>
      <Outline demand={row.demand} capacity={row.capacity} label={`Demand ${row.demand_name} against capacity`} />
      <div>
        <div className="cost">{row.cost}</div>
        <span className="quiet">{row.demand_name}</span>
      </div>
      <ul aria-label="Promises">
        {row.promises.map((promise) => (
          <li key={promise.text} className={promise.kept ? undefined : "broken"}>
            {promise.kept ? "Kept" : "Broken"}: {promise.text}; {promise.measured}
          </li>
        ))}
        {row.promises.length === 0 && <li>No promise made yet</li>}
        {found.length > 0 && (
          <li className={errors ? "broken" : "doubtful"} title={row.look ?? undefined}>
            {found.join(", ")} found
          </li>
        )}
      </ul>
    </article>
  );
}

/** What a new user sees: what it is for, the demo data, or a plan of their own. */
function Empty() {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const load = useMutation({
    mutationFn: () => answered(api.POST("/api/demo")),
    onSuccess: async () => {
      await queries.invalidateQueries({ queryKey: ["plan"] });
      navigate("/rehearse/booking-web");
    },
  });
  const open = useMutation({
    mutationFn: async (file: File) =>
      answered(api.POST("/api/plans", { body: (await file.text()) as never, bodySerializer: (text) => text })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["plan"] }),
  });
  const choose = (event: ChangeEvent<HTMLInputElement>) => {
    const file = event.target.files?.[0];
    if (file) open.mutate(file);
    event.target.value = "";
  };
  return (
    <main className="empty">
      <h1>See the week before it happens.</h1>
      <p>
        Jostle rehearses an instance group against its demand: how many instances run, what they cost, when they fall
        short. Change a number and the week that follows is drawn at once. At every instant it says why the count is
        what it is.
      </p>
      <div className="actions">
        <button type="button" className="solid-button" onClick={() => load.mutate()} disabled={load.isPending}>
          {load.isPending ? "Loading the demo data" : "Start with the demo data"}
        </button>
        <label className="plain-button">
          Open a plan file
          <input type="file" accept=".yaml,.yml,.json" className="sr" onChange={choose} />
        </label>
      </div>
      {(load.error ?? open.error) && <p className="notice">{(load.error ?? open.error)?.message}</p>}
    </main>
  );
}
