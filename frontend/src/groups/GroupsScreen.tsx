import "./groups.css";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type ChangeEvent, useState } from "react";
import { Link, useNavigate } from "react-router";
import { answered, api, type GroupRow } from "../api/client";
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
      {rows.data?.map((row) => (
        <Row key={row.name} row={row} />
      ))}
      {adding && plan && <NewGroup plan={plan} close={() => setAdding(false)} />}
    </main>
  );
}

function Row({ row }: { row: GroupRow }) {
  return (
    <Link to={`/rehearse/${row.name}`} className="group-row">
      <div>
        <h2>{row.name}</h2>
        <p className="line">{row.line}</p>
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
      </ul>
    </Link>
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
