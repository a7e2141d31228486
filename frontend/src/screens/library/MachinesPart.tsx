import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate, useParams } from "react-router";
import { answered, api, type MachineRow, type PlanView } from "../../shared/api/client";
import { type Handling, keptBy } from "../../shared/gesture/handling";
import { TypedBlank } from "../../shared/words/TypedBlank";
import { Words } from "../../shared/words/Words";
import its from "./library.module.css";
import { MarketChart } from "./MarketChart";
import { PricesLine } from "./PricesLine";
import { TakenPart } from "./TakenPart";

/** Machine types by need: what each is and costs, and what a group's week would be on it. */
export function MachinesPart({ plan }: { plan: PlanView }) {
  const { name: group = plan.groups[0] ?? "" } = useParams();
  const navigate = useNavigate();
  const queries = useQueryClient();
  const [market, setMarket] = useState<string | null>(null);
  const [vcpus, setVcpus] = useState(0);
  const [memory, setMemory] = useState(0);
  const [architecture, setArchitecture] = useState<"" | "x86-64" | "arm64">("");
  const machines = useQuery({
    queryKey: ["machines", plan.id, vcpus, memory, architecture, group],
    queryFn: ({ signal }) =>
      answered(
        api.GET("/api/plans/{plan_id}/machines", {
          params: {
            path: { plan_id: plan.id },
            query: {
              vcpus,
              memory_gib: memory,
              ...(architecture ? { architecture } : {}),
              ...(group ? { group } : {}),
            },
          },
          signal,
        }),
      ),
    placeholderData: (before) => before,
  });
  const prices = useQuery({
    queryKey: ["prices", plan.id],
    queryFn: () =>
      answered(api.GET("/api/plans/{plan_id}/machines/prices", { params: { path: { plan_id: plan.id } } })),
  });
  const change = useMutation({
    scope: { id: "machines" },
    mutationFn: (body: { op: "set" | "add" | "remove"; path: string; value?: unknown }) =>
      answered(api.POST("/api/plans/{plan_id}/machines/changes", { params: { path: { plan_id: plan.id } }, body })),
    onSuccess: () => queries.invalidateQueries(),
  });
  const handling = keptBy((path, value) => change.mutateAsync({ op: "set", path, value }));
  const add = (like: string) => {
    const taken = plan.machines;
    const name = Array.from({ length: 99 }, (_, k) => `${like}-${k + 2}`).find((one) => !taken.includes(one));
    change.mutate({ op: "add", path: `machines.${like}`, value: name });
  };
  return (
    <section className={`${its.sheet} ${its.machines}`} aria-label="Machine types">
      <h1>Machine types</h1>
      <p className={its.need}>
        At least{" "}
        <TypedBlank
          label="At least so many vCPUs"
          how={{ measure: "number", unit: "vCPUs" }}
          first="0"
          set={(value) => value !== null && setVcpus(Math.ceil(value))}
        />{" "}
        vCPUs and{" "}
        <TypedBlank
          label="At least so much memory in GiB"
          how={{ measure: "number", unit: "GiB" }}
          first="0"
          set={(value) => value !== null && setMemory(value)}
        />{" "}
        GiB of memory, on{" "}
        <select
          aria-label="Architecture"
          value={architecture}
          onChange={(event) => setArchitecture(event.target.value as typeof architecture)}
        >
          <option value="">any architecture</option>
          <option>x86-64</option>
          <option>arm64</option>
        </select>
        {plan.groups.length > 0 && (
          <>
            ; the week is that of{" "}
            <select
              aria-label="Whose week"
              value={group}
              onChange={(event) => navigate(`/library/machines/${event.target.value}`, { replace: true })}
            >
              {plan.groups.map((one) => (
                <option key={one}>{one}</option>
              ))}
            </select>
          </>
        )}
        .
      </p>
      {machines.error && <p className="notice">{machines.error.message}</p>}
      {change.error && (
        <p className="notice" role="alert">
          {change.error.message}
        </p>
      )}
      {prices.data && (
        <p className={its.need}>
          <Words words={prices.data} handling={handling} />
        </p>
      )}
      <PricesLine plan={plan.id} />
      {market && <MarketChart plan={plan.id} machine={market} />}
      {group && <TakenPart plan={plan} group={group} />}
      {machines.isFetching && <p className="sr">Rehearsing on each</p>}
      <table aria-busy={machines.isFetching}>
        <thead>
          <tr>
            <th scope="col">Type</th>
            <th scope="col">vCPUs, speed</th>
            <th scope="col">Memory, network</th>
            <th scope="col">Price</th>
            <th scope="col" title="Price by vCPUs and speed: an hour of one vCPU at speed 1">
              A vCPU at speed 1
            </th>
            <th scope="col">Boots in</th>
            <th scope="col">Stopped it costs</th>
            {group && <th scope="col">The week of {group} on it</th>}
          </tr>
        </thead>
        <tbody>
          {machines.data?.map((row) => (
            <tr key={row.name} className={row.fits ? undefined : its.unfit} data-machine={row.name}>
              <th scope="row">
                {row.name}
                <small>
                  {row.used_by.length > 0 ? `runs ${row.used_by.join(", ")}` : "runs nothing"};{" "}
                  {said(row, "quota", handling)}
                </small>
                <small>
                  <button type="button" className="plain-button" onClick={() => add(row.name)}>
                    + one like it
                  </button>
                  {row.used_by.length === 0 && (
                    <button
                      type="button"
                      className="plain-button"
                      onClick={() => change.mutate({ op: "remove", path: `machines.${row.name}` })}
                    >
                      take out
                    </button>
                  )}
                </small>
              </th>
              <td>
                {said(row, "power", handling)}
                <small>{said(row, "architecture", handling)}</small>
                <small>for good {said(row, "bursts", handling)}</small>
              </td>
              <td>
                {said(row, "memory", handling)}
                <small>{said(row, "network", handling)}</small>
              </td>
              <td>
                {said(row, "price", handling)}
                <small>{said(row, "billed", handling)}</small>
                <small>free {said(row, "free", handling)}</small>
                <small>{said(row, "spot", handling)}</small>
                {row.sold_as_spot && (
                  <small>
                    <button
                      type="button"
                      className="plain-button"
                      aria-expanded={market === row.name}
                      onClick={() => setMarket(market === row.name ? null : row.name)}
                    >
                      its market
                    </button>
                  </small>
                )}
              </td>
              <td>{row.price_per_work}</td>
              <td>{said(row, "boot", handling)}</td>
              <td>{said(row, "stopped", handling)}</td>
              {group && (
                <td className={row.in_use ? its.differs : undefined}>
                  {!row.fits && <span className="quiet">does not meet the need</span>}
                  {row.week?.refused && <span className="quiet">{row.week.refused}</span>}
                  {row.week && !row.week.refused && (
                    <>
                      <b>{row.week.cost}</b>, {row.week.instances} instances
                      <small>
                        short {row.week.short}, {row.week.service}
                        {row.in_use && "; as it runs now"}
                      </small>
                      {row.week.broken.map((promise) => (
                        <small key={promise} className="wrong">
                          broken: {promise}
                        </small>
                      ))}
                    </>
                  )}
                </td>
              )}
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

/** The words of a column of a machine. */
function said(row: MachineRow, column: string, handling: Handling) {
  return <Words words={row.words[column] ?? []} handling={handling} />;
}
