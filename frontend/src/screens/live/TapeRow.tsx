import type { ReactNode } from "react";
import type { LiveGroup, Numbers } from "../../shared/api/client";
import its from "./live.module.css";

const HEIGHT = 64;

function line(values: Numbers, top: number): string {
  let drawn = "";
  let before = false;
  values.forEach((value, k) => {
    if (value === null) before = false;
    else {
      drawn += `${before ? "L" : "M"}${k},${(HEIGHT - 8 - (value / top) * (HEIGHT - 14)).toFixed(1)}`;
      before = true;
    }
  });
  return drawn;
}

function area(values: Numbers, top: number): string {
  const there = values.flatMap((value, k) => (value === null ? [] : [k]));
  const first = there[0];
  const last = there.at(-1);
  if (first === undefined || last === undefined) return "";
  return `${line(values, top)}L${last},${HEIGHT - 8}L${first},${HEIGHT - 8}Z`;
}

interface Props {
  group: LiveGroup;
  /** Where now lies, a share of the tape. */
  now: number;
  chosen: boolean;
  choose: () => void;
  children: ReactNode;
}

/** One group through now: what was lived with what was rehearsed behind it, what is likely, and what its policies are at. */
export function TapeRow({ group, now, chosen, choose, children }: Props) {
  const { tape } = group;
  const all = [tape.demand, tape.capacity, tape.likely_demand, tape.likely_capacity].flat();
  const top = Math.max(1e-9, ...all.map((value) => value ?? 0));
  const last = tape.times.length - 1;
  const [begin, end] = [tape.times[0] ?? 0, tape.times[last] ?? 1];
  const read = Math.min(now, Math.max(0, (tape.read - begin) / (end - begin)));
  const tone = group.state?.tone ?? "quiet";
  return (
    <li className={chosen ? its.chosen : undefined}>
      <button type="button" className={its.row} aria-pressed={chosen} onClick={choose}>
        <span className={its.count}>
          <strong>{group.name}</strong>
          <span>
            <b>{group.wanted}</b> of {group.minimum} – {group.maximum}
          </span>
        </span>
        <svg
          viewBox={`0 0 ${last} ${HEIGHT}`}
          preserveAspectRatio="none"
          role="img"
          aria-label={`${group.name}: ${group.serving} serving of ${group.wanted} wanted; demand and capacity in ${tape.unit}, lived and likely`}
        >
          <rect x={read * last} width={(1 - read) * last} height={HEIGHT} className={its.ahead} />
          <path d={area(tape.capacity, top)} className={its.lived} />
          <path d={area(tape.likely_capacity, top)} className={its.coming} />
          <path d={line(tape.rehearsed, top)} className={its.rehearsed} vectorEffect="non-scaling-stroke" />
          <path d={line(tape.capacity, top)} className={its.capacity} vectorEffect="non-scaling-stroke" />
          <path d={line(tape.demand, top)} className={its.demand} vectorEffect="non-scaling-stroke" />
          <path d={line(tape.likely_capacity, top)} className={its.likelyCapacity} vectorEffect="non-scaling-stroke" />
          <path d={line(tape.likely_demand, top)} className={its.likelyDemand} vectorEffect="non-scaling-stroke" />
          {tape.changes.map((at) => {
            const x = ((at - begin) / (end - begin)) * last;
            return (
              <path
                key={at}
                d={`M${x},${HEIGHT - 6}V${HEIGHT}`}
                className={its.change}
                vectorEffect="non-scaling-stroke"
              />
            );
          })}
          <path d={`M${now * last},0V${HEIGHT}`} className={its.now} vectorEffect="non-scaling-stroke" />
        </svg>
        <span className={its.state}>
          {group.state && (
            <b className={`ink-${tone === "none" ? "quiet" : tone}`}>
              {group.kept ? `${group.state.name} ${group.state.outcome}` : "on its own"}
            </b>
          )}
          <span>{group.kept ? group.note || group.state?.text : "the keeper leaves it alone"}</span>
        </span>
      </button>
      {children}
    </li>
  );
}
