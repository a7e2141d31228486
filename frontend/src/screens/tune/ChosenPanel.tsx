import type { Nudge, Numbers, SearchView, SetView } from "../../shared/api/client";
import its from "./tune.module.css";

const HEIGHT = 40;

function line(values: Numbers, top: number): string {
  return values
    .map((value, k) => `${k ? "L" : "M"}${k},${(HEIGHT - ((value ?? 0) / top) * (HEIGHT - 2)).toFixed(1)}`)
    .join("");
}

function Small({ name, values, behind }: { name: string; values: Numbers; behind?: Numbers }) {
  const top = Math.max(1e-9, ...values.map((one) => one ?? 0), ...(behind ?? []).map((one) => one ?? 0));
  return (
    <div className={its.small}>
      <span>{name}</span>
      <svg viewBox={`0 0 ${values.length - 1} ${HEIGHT}`} preserveAspectRatio="none" role="img" aria-label={name}>
        {behind && <path d={line(behind, top)} className={its.behind} vectorEffect="non-scaling-stroke" />}
        <path d={line(values, top)} data-name={name} vectorEffect="non-scaling-stroke" />
      </svg>
    </div>
  );
}

interface Props {
  view: SearchView;
  chosen: SetView;
  make: () => void;
  making: boolean;
  error: string | null;
  trouble: () => void;
  nudges: Nudge[] | null;
  looking: boolean;
}

/** The set that is chosen: its week beside that of the take, the words that differ, and how often its promises are kept. */
export function ChosenPanel({ view, chosen, make, making, error, trouble, nudges, looking }: Props) {
  return (
    <section className={its.chosen} aria-label="The chosen set">
      <h2>
        Set {chosen.number}: {chosen.cost}, promises kept in {chosen.kept}
        {chosen.again && ` and in ${chosen.again}`}
      </h2>
      {chosen.breaks.length > 0 && (
        <ul className={`${its.nudges} wrong`} aria-label="What it breaks">
          {chosen.breaks.map((one) => (
            <li key={one}>breaks {one}</li>
          ))}
        </ul>
      )}
      {view.as_is && <p className="quiet">{asItIs(view.as_is, chosen)}</p>}
      <Small name="capacity" values={chosen.capacity} behind={chosen.capacity_as_is} />
      <Small name="demand" values={chosen.demand} />
      <Small name="count" values={chosen.count} />
      <p className="quiet">Differs from take {view.take} in</p>
      <ul>
        {chosen.differs.map((one) => (
          <li key={one}>{one}</li>
        ))}
        {chosen.differs.length === 0 && <li>nothing</li>}
      </ul>
      <button type="button" className="solid-button" disabled={making} onClick={make}>
        Make it a take
      </button>{" "}
      <button type="button" className="plain-button" disabled={looking} onClick={trouble}>
        how close is trouble?
      </button>
      {nudges && (
        <ul className={its.nudges} aria-label="How close is trouble">
          {nudges.map((one) => (
            <li key={one.kind} className={one.holds ? undefined : "wrong"}>
              {one.text}
            </li>
          ))}
        </ul>
      )}
      {error && <span className="wrong"> {error}</span>}
    </section>
  );
}

function asItIs(one: SetView, chosen: SetView): string {
  const kept = one.again ? `${one.kept} and in ${one.again}` : one.kept;
  return `As it is: ${one.cost}, kept in ${kept}, short for ${one.short}; this one for ${chosen.short}.`;
}
