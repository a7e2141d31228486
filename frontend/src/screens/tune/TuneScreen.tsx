import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useMemo } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { type Act, useOffered } from "../../shared/acts/acts";
import { useAddress } from "../../shared/acts/address";
import { answered, api, type PlanView, type VariedView } from "../../shared/api/client";
import { usePlan } from "../../shared/api/plan";
import { Nothing } from "../../shared/words/Nothing";
import { TypedBlank } from "../../shared/words/TypedBlank";
import { useVaried } from "../../shared/words/useVaried";
import { ChosenPanel } from "./ChosenPanel";
import { MapChart } from "./MapChart";
import { ModelPart } from "./ModelPart";
import { PointsChart } from "./PointsChart";
import its from "./tune.module.css";
import { useAsked } from "./useAsked";
import { useSearch } from "./useSearch";
import { VaryRange } from "./VaryRange";

/** The best settings of a group are looked for, and judged. */
export function TuneScreen() {
  const { plan } = usePlan();
  const { group } = useParams();
  const address = useAddress();
  const chosen = group ?? plan?.groups[0];
  if (!plan) return null;
  if (!chosen || !plan.groups.includes(chosen))
    return (
      <Nothing title="No group to tune.">
        <p>
          Write one in <Link to="/groups">Groups</Link> first.
        </p>
      </Nothing>
    );
  if (address.text("part") === "model")
    return <ModelPart key={chosen} plan={plan} group={chosen} take={address.number("take")} />;
  return <Tune key={chosen} plan={plan} group={chosen} />;
}

function Tune({ plan, group }: { plan: PlanView; group: string }) {
  const address = useAddress();
  const navigate = useNavigate();
  const queries = useQueryClient();
  const path = { plan_id: plan.id, group };
  const take = address.number("take");
  const [varied, varies] = useVaried(plan.id, group);
  const searches = useQuery({
    queryKey: ["searches", plan.id, group],
    queryFn: () => answered(api.GET("/api/plans/{plan_id}/groups/{group}/searches", { params: { path } })),
  });
  const number = address.number("search") ?? searches.data?.[0]?.number ?? null;
  const set = address.number("set");
  const search = useSearch(plan.id, group, number, set);
  const space = useQuery({
    queryKey: ["space", plan.id, group, take, varied.join(",")],
    queryFn: () =>
      answered(
        api.GET("/api/plans/{plan_id}/groups/{group}/searches/space", {
          params: { path, query: { take, vary: varied.length > 0 ? varied : undefined } },
        }),
      ),
  });
  const asked = useAsked(plan.id, group);
  const { left, under } = asked;
  const sets = asked.blank("sets", "200", 200);
  const seeds = asked.blank("seeds", "3", 3);
  const margin = asked.blank("margin", "10 %", 0.1);
  const low = (one: VariedView) => asked.blank(`${one.path} low`, one.low_text, one.low);
  const high = (one: VariedView) => asked.blank(`${one.path} high`, one.high_text, one.high);
  const vary = (space.data ?? []).filter((one) => !left.includes(one.path));
  const blanks = [
    sets,
    seeds,
    margin,
    ...under.map((one) => one.times),
    ...vary.flatMap((one) => [low(one), high(one)]),
  ];
  const unread = blanks.some((one) => one.value === null);
  const begin = useMutation({
    mutationFn: () =>
      answered(
        api.POST("/api/plans/{plan_id}/groups/{group}/searches", {
          params: { path },
          body: {
            take,
            seeds: seeds.value ?? 3,
            sets: sets.value ?? 200,
            margin: margin.value ?? 0.1,
            under: under.map((one) => ({ demand: one.demand, times: one.times.value ?? 1 })),
            vary: vary.map((one) => ({
              path: one.path,
              low: low(one).value ?? one.low,
              high: high(one).value ?? one.high,
              step: one.step,
            })),
          },
        }),
      ),
    onSuccess: async (begun) => {
      address.choose({ search: begun.number, set: null });
      await queries.invalidateQueries({ queryKey: ["searches", plan.id, group] });
    },
  });
  const goOn = useMutation({
    mutationFn: () =>
      answered(
        api.POST("/api/plans/{plan_id}/groups/{group}/searches/{number}/resume", {
          params: { path: { ...path, number: number ?? 1 } },
          body: { sets: sets.value ?? 200 },
        }),
      ),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["search", plan.id, group, number] }),
  });
  const stop = useMutation({
    mutationFn: () =>
      answered(
        api.POST("/api/plans/{plan_id}/groups/{group}/searches/{number}/stop", {
          params: { path: { ...path, number: number ?? 1 } },
        }),
      ),
  });
  const make = useMutation({
    mutationFn: (wanted: number) =>
      answered(
        api.POST("/api/plans/{plan_id}/groups/{group}/searches/{number}/take", {
          params: { path: { ...path, number: number ?? 1 } },
          body: { set: wanted },
        }),
      ),
    onSuccess: async (takes) => {
      await queries.invalidateQueries({ queryKey: ["takes", plan.id, group] });
      navigate(`/rehearse/${group}?take=${takes.at(-1)?.number}`);
    },
  });
  const trouble = useMutation({
    mutationFn: (wanted: number) =>
      answered(
        api.GET("/api/plans/{plan_id}/groups/{group}/searches/{number}/trouble", {
          params: { path: { ...path, number: number ?? 1 }, query: { set: wanted } },
        }),
      ),
  });
  const view = search.data;
  const chosen = set ?? view?.chosen?.number ?? null;
  const front = (view?.points.number ?? []).filter((_, k) => view?.points.on_front[k]);
  const walk = (by: 1 | -1) => {
    if (!view) return;
    const byCost = [...front].sort(
      (one, other) =>
        (view.points.cost[view.points.number.indexOf(one)] ?? 0) -
        (view.points.cost[view.points.number.indexOf(other)] ?? 0),
    );
    const at = byCost.indexOf(chosen ?? -1);
    const next = byCost[Math.min(byCost.length - 1, Math.max(0, at + by))];
    if (next !== undefined) address.choose({ set: next }, "instead");
  };
  useOffered(
    useMemo(
      (): Act[] => [
        {
          group: "Do here",
          label: "Look for better settings",
          also: "tune search optimise",
          run: () => begin.mutate(),
        },
        { group: "Do here", label: "That is enough", also: "stop search", run: () => stop.mutate() },
        {
          group: "Do here",
          label: "Is the model right?",
          also: "fit backtest estimate observed",
          run: () => address.choose({ part: "model" }),
        },
      ],
      [begin.mutate, stop.mutate, address.choose],
    ),
  );
  return (
    <main className={its.tune}>
      <section className={its.asked} aria-label="What is searched">
        <h1>
          {group}{" "}
          <select
            aria-label="Another group"
            value={group}
            onChange={(event) => navigate(`/tune/${event.target.value}`)}
          >
            {plan.groups.map((one) => (
              <option key={one}>{one}</option>
            ))}
          </select>
        </h1>
        <p>
          <button type="button" className="plain-button" onClick={() => address.choose({ part: "model" })}>
            is the model right?
          </button>
        </p>
        <h2>May vary</h2>
        <ul>
          {(space.data ?? []).map((one) => (
            <VaryRange
              key={one.path}
              one={one}
              low={low(one)}
              high={high(one)}
              out={left.includes(one.path)}
              leave={(out) => asked.leave(one.path, out)}
              view={view}
            />
          ))}
        </ul>
        {space.error && <p className="wrong">{space.error.message}</p>}
        {varied.length > 0 && (
          <p>
            <button type="button" className="plain-button" onClick={() => varies([])}>
              all that the policies have instead
            </button>
          </p>
        )}
        <h2>Stays</h2>
        <p>
          Add above remove by at least <TypedBlank label="Margin" how={{ measure: "share", unit: "%" }} {...margin} />
          {"; no new error found by the checks."}
        </p>
        <h2>Is good</h2>
        <p>
          The least cost with every promise kept in all of{" "}
          <TypedBlank label="Seeds" how={{ measure: "number", unit: "" }} {...seeds} /> seeds, and in ten that are not
          searched with.
        </p>
        <h2>Rehearsed under</h2>
        {under.length === 0 && <p>The take's own demand.</p>}
        <ul>
          {under.map((one, place) => (
            <li key={one.own}>
              <select
                aria-label={`Demand ${place + 1}`}
                value={one.demand}
                onChange={(event) => asked.put(one.own, event.target.value)}
              >
                {plan.demands.map((name) => (
                  <option key={name}>{name}</option>
                ))}
              </select>{" "}
              <TypedBlank label={`Times demand ${place + 1}`} how={{ measure: "number", unit: "" }} {...one.times} />{" "}
              times{" "}
              <button type="button" className="plain-button" onClick={() => asked.takeOut(one.own)}>
                take out
              </button>
            </li>
          ))}
        </ul>
        {under.length < 5 && (
          <p>
            <button type="button" className="plain-button" onClick={() => asked.add(plan.demands[0] ?? "")}>
              + demand
            </button>
          </p>
        )}
        <h2>For as long as</h2>
        <p>
          <TypedBlank label="Sets" how={{ measure: "number", unit: "" }} {...sets} /> sets,{" "}
          {((sets.value ?? 0) * (seeds.value ?? 0) * Math.max(1, under.length)).toLocaleString("en-GB")} weeks.
        </p>
        <p>
          <button
            type="button"
            className="solid-button"
            disabled={begin.isPending || unread || vary.length === 0 || view?.running === true}
            onClick={() => begin.mutate()}
          >
            Look for better settings
          </button>
        </p>
        {begin.error && <p className="wrong">{begin.error.message}</p>}
        {view && (
          <div className={its.progress} role="status">
            <b>
              {view.looked_at} of {view.of}
            </b>{" "}
            looked at in {view.seconds} s{view.refused > 0 && `, ${view.refused} of them refused unrehearsed`}:{" "}
            {view.said}
            <progress max={view.of} value={view.looked_at} aria-label="How far the search is" />
            {view.running && (
              <button type="button" className="plain-button" onClick={() => stop.mutate()}>
                enough
              </button>
            )}
            {!view.running && (
              <button type="button" className="plain-button" disabled={goOn.isPending} onClick={() => goOn.mutate()}>
                look at {sets.value ?? 200} more
              </button>
            )}
            {goOn.error && <p className="wrong">{goOn.error.message}</p>}
            {view.trouble && <p className="wrong">{view.trouble}</p>}
          </div>
        )}
        {(searches.data?.length ?? 0) > 1 && (
          <>
            <h2>Earlier searches</h2>
            <ul>
              {searches.data?.map((one) => (
                <li key={one.number}>
                  <button
                    type="button"
                    className="plain-button"
                    aria-current={one.number === number}
                    onClick={() => address.choose({ search: one.number, set: null })}
                  >
                    search {one.number}
                  </button>{" "}
                  <span className="quiet">
                    {one.looked_at} sets: {one.said}
                  </span>
                </li>
              ))}
            </ul>
          </>
        )}
      </section>
      <div className={its.found}>
        {!view && (
          <div className={its.none}>
            <h2>Nothing was looked for yet.</h2>
            <p>
              The machine rehearses hundreds of sets of settings, and shows what each costs and how long it is short.
              What it chooses keeps its promises under seeds that it was not searched with.
            </p>
          </div>
        )}
        {view && view.points.number.length > 0 && (
          <>
            <p className="quiet">
              Each point is a set of settings, rehearsed under {view.seeds} seeds: its cost, and how long it is short.{" "}
              <span className={its.keyKept}>keeps every promise</span> <span className={its.keyBroken}>breaks one</span>
            </p>
            <PointsChart view={view} chosen={chosen} choose={(wanted) => address.choose({ set: wanted })} />
            <p>
              <button type="button" className="plain-button" onClick={() => walk(-1)}>
                ← cheaper on the front
              </button>{" "}
              <button type="button" className="plain-button" onClick={() => walk(1)}>
                dearer on the front →
              </button>
            </p>
          </>
        )}
        {view && view.points.number.length > 0 && view.space.length > 1 && (
          <MapChart
            view={view}
            chosen={chosen}
            across={address.text("across")}
            up={address.text("up")}
            show={(axis, path) => address.choose({ [axis]: path }, "instead")}
            choose={(wanted) => address.choose({ set: wanted })}
          />
        )}
        <div className={its.below}>
          {view && view.matters.length > 0 && (
            <section aria-label="What matters">
              <h2>What matters</h2>
              <dl className={its.matters}>
                {view.matters.slice(0, 8).map((one) => (
                  <div key={one.path}>
                    <dt>{one.name}</dt>
                    <dd>
                      <i style={{ width: `${one.on_short * 100}%` }} className={its.onShort} />
                      <i style={{ width: `${one.on_cost * 100}%` }} className={its.onCost} />
                    </dd>
                  </div>
                ))}
              </dl>
              <p className="quiet">
                How much of what differs it explains alone: <span className={its.keyShort}>time short</span>{" "}
                <span className={its.keyCost}>cost</span>
              </p>
            </section>
          )}
          {view?.chosen && (
            <ChosenPanel
              view={view}
              chosen={view.chosen}
              make={() => make.mutate(view.chosen?.number ?? 1)}
              making={make.isPending}
              error={make.error?.message ?? trouble.error?.message ?? null}
              trouble={() => trouble.mutate(view.chosen?.number ?? 1)}
              looking={trouble.isPending}
              nudges={trouble.data && trouble.variables === view.chosen.number ? trouble.data : null}
            />
          )}
        </div>
      </div>
    </main>
  );
}
