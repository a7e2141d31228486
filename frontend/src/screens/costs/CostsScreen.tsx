import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { useAddress } from "../../shared/acts/address";
import { answered, api, type CostsView, type PlanView, Refusal } from "../../shared/api/client";
import { usePlan } from "../../shared/api/plan";
import { Nothing } from "../../shared/words/Nothing";
import { BesideLine } from "./BesideLine";
import { BudgetLine } from "./BudgetLine";
import { CurveChart } from "./CurveChart";
import its from "./costs.module.css";
import { DaysGrid } from "./DaysGrid";
import { DifferencePanel } from "./DifferencePanel";
import { MadeOfPanel } from "./MadeOfPanel";
import { PastLine } from "./PastLine";
import { tone } from "./tone";

const FORMS = { days: "days", hours: "hours", instances: "instances", focus: "open cost rows (FOCUS)" } as const;
const WAYS: Record<string, string> = {
  for: "what for",
  machine: "machine",
  zone: "zone",
  version: "version",
  owned: "owned or not",
  purchase: "purchase",
  need: "needed or not",
};

/** What the groups cost, day by day, for what, and what it is likely to come to. */
export function CostsScreen() {
  const { plan } = usePlan();
  return plan ? <Costs plan={plan} /> : null;
}

function Costs({ plan }: { plan: PlanView }) {
  const address = useAddress();
  const path = { plan_id: plan.id };
  const query = { begin: address.text("begin"), end: address.text("end"), beside: address.text("beside") };
  const costs = useQuery({
    queryKey: ["costs", plan.id, query.begin, query.end, query.beside],
    placeholderData: keepPreviousData,
    queryFn: async (): Promise<CostsView | null> => {
      const { data, error, response } = await api.GET("/api/plans/{plan_id}/costs", { params: { path, query } });
      if (error !== undefined) throw new Refusal("The costs cannot be read.", response.status);
      return data ?? null;
    },
  });
  const curve = useQuery({
    queryKey: ["costs", plan.id, "curve"],
    enabled: Boolean(costs.data?.lives),
    queryFn: () => answered(api.GET("/api/plans/{plan_id}/costs/curve", { params: { path } })),
  });
  const chosen = { begin: query.begin, end: query.end };
  const reasons = useQuery({
    queryKey: ["costs", plan.id, "reasons", query.begin, query.end],
    placeholderData: keepPreviousData,
    enabled: Boolean(costs.data?.lives),
    queryFn: () => answered(api.GET("/api/plans/{plan_id}/costs/reasons", { params: { path, query: chosen } })),
  });
  const view = costs.data;
  if (costs.isPending)
    return (
      <p className="waits" role="status">
        What was spent is being added up.
      </p>
    );
  if (!view)
    return (
      <Nothing title="Nothing was spent yet.">
        <p>
          What the groups cost is told from when they are kept. <Link to="/live">Keep them on the stand-in</Link>, or
          see in <Link to="/groups">Groups</Link> what a rehearsed week comes to.
        </p>
        <PastLine plan={plan.id} brought={0} />
        {costs.error && <p className="wrong">{costs.error.message}</p>}
      </Nothing>
    );
  const one = view.begin === view.end;
  const [of, by, part] = [address.text("of"), address.text("by"), address.text("part")];
  const asked = of || by ? { begin: view.begin, end: view.end, group: of, by, part } : null;
  return (
    <main className={its.costs}>
      <header className={its.head}>
        <h1>
          Spent <b>{view.spent}</b> in {view.lived_for}
          {curve.data?.said ? `; ${curve.data.said}` : view.lives ? "; what is likely is being found" : ""}.
        </h1>
        <BudgetLine plan={plan} view={view} reached={curve.data?.reached ?? null} />
      </header>
      <div className={its.left}>
        <DaysGrid view={view} curve={curve.data} choose={(begin, end) => address.choose({ begin, end })} />
        <p className="quiet">
          The line is the count of paid instances; the bar is the day's amount by group, the dearest day full. Days to
          come are likely.
        </p>
        {curve.data && <CurveChart curve={curve.data} />}
      </div>
      <div className={its.right}>
        <h2>
          {view.span}{" "}
          {query.begin && (
            <button type="button" className="plain-button" onClick={() => address.choose({ begin: null, end: null })}>
              all days
            </button>
          )}
        </h2>
        <BesideLine view={view} choose={(beside) => address.choose({ beside })} />
        {one && view.hours.length > 0 && (
          <figure className={its.hours} aria-label={`The hours of ${view.span}; most: ${view.dearest_hour}`}>
            <div>
              {view.hours.map((hour) => (
                <span key={hour.label} title={hour.said}>
                  {hour.shares.map((share, group) => (
                    <em
                      key={view.groups[group]}
                      style={{ ...tone(group, view.groups.length), height: `${share * 100}%` }}
                    />
                  ))}
                </span>
              ))}
            </div>
            <figcaption>
              <span>{view.hours[0]?.label}</span>
              <span>at most {view.dearest_hour}</span>
              <span>{view.hours.at(-1)?.label}</span>
            </figcaption>
          </figure>
        )}
        <table className={its.table}>
          <thead>
            <tr>
              <th scope="col">Group</th>
              <th scope="col">Instance hours</th>
              <th scope="col">Count</th>
              <th scope="col">Cost</th>
              {view.beside ? (
                <th scope="col">Then</th>
              ) : (
                <>
                  <th scope="col">Unit cost</th>
                  <th scope="col">Share</th>
                </>
              )}
            </tr>
          </thead>
          <tbody>
            {view.table.map((row) => (
              <tr key={row.name}>
                <th scope="row">
                  <em style={tone(view.groups.indexOf(row.name), view.groups.length)} aria-hidden />
                  <Link to={`/live?group=${row.name}&of=${row.name}`}>{row.name}</Link>
                </th>
                <td>{row.instance_hours}</td>
                <td>{row.count}</td>
                <td>
                  <button
                    type="button"
                    className="plain-button"
                    aria-label={`${row.cost}: what ${row.name} paid it for`}
                    onClick={() => address.choose({ of: row.name, by: null, part: null, instance: null })}
                  >
                    <b>{row.cost}</b>
                  </button>
                </td>
                {view.beside ? (
                  <td>{row.beside}</td>
                ) : (
                  <>
                    <td>
                      {row.unit_cost}
                      {row.late && <small className={`quiet ${its.late}`}>{row.late}</small>}
                    </td>
                    <td>{row.share}</td>
                  </>
                )}
              </tr>
            ))}
          </tbody>
        </table>
        {view.entered && <p className="quiet">In the ledger of these days: {view.entered}.</p>}
        {asked && (
          <MadeOfPanel
            plan={plan.id}
            asked={asked}
            instance={address.text("instance")}
            choose={(instance) => address.choose({ instance })}
            close={() => address.choose({ of: null, by: null, part: null, instance: null })}
          />
        )}
        {one && view.lives && <DifferencePanel plan={plan} day={view.begin} groups={view.groups} />}
        <h2>What it was for</h2>
        <dl className={its.partings}>
          {[...view.partings, ...(reasons.data ? [reasons.data.need] : [])].map((parting) => (
            <div key={parting.by}>
              <dt>{WAYS[parting.by] ?? parting.by}</dt>
              <dd>
                {parting.parts.map((part, place) => {
                  const shown = {
                    style: { ...tone(place, parting.parts.length), flexGrow: Math.max(0.02, part.share) },
                    title: `${part.name}: ${part.amount}`,
                  };
                  const text = part.share > 0.14 ? `${part.name} ${part.amount}` : "";
                  return parting.by === "need" ? (
                    <span key={part.name} {...shown}>
                      {text}
                    </span>
                  ) : (
                    <button
                      key={part.name}
                      type="button"
                      {...shown}
                      aria-label={`${part.name} ${part.amount}: what it is made of`}
                      onClick={() => address.choose({ of: null, by: parting.by, part: part.name, instance: null })}
                    >
                      {text}
                    </button>
                  );
                })}
              </dd>
            </div>
          ))}
        </dl>
        {reasons.data && (
          <p className="quiet">All that was lived: {[...reasons.data.kept_back, reasons.data.foresight].join("; ")}.</p>
        )}
        <p className={its.files}>
          The hours that have ended as CSV:{" "}
          {Object.entries(FORMS).map(([form, text]) => (
            <a key={form} href={`/api/plans/${plan.id}/costs/file.csv?form=${form}`} download>
              {text}
            </a>
          ))}{" "}
          <a
            href={`/api/plans/${plan.id}/costs/month.html?month=${view.end.slice(0, 7)}`}
            target="_blank"
            rel="noreferrer"
          >
            the month on one page
          </a>
        </p>
        <PastLine plan={plan.id} brought={view.brought} />
      </div>
    </main>
  );
}
