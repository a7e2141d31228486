import type { SearchView, VariedView } from "../../shared/api/client";
import { TypedBlank } from "../../shared/words/TypedBlank";
import its from "./tune.module.css";

interface Blank {
  first: string;
  set: (value: number | null, text: string) => void;
}

interface Props {
  one: VariedView;
  low: Blank;
  high: Blank;
  out: boolean;
  leave: (out: boolean) => void;
  /** The search whose sets are drawn between the ends. */
  view: SearchView | undefined;
}

const LENGTH = 100;

/** A setting that may vary: from where to where, and between, where the sets lie that were looked at, and of them the good ones. */
export function VaryRange({ one, low, high, out, leave, view }: Props) {
  return (
    <li className={out ? its.out : undefined}>
      <label>
        <input type="checkbox" checked={!out} onChange={() => leave(!out)} /> {one.name}
      </label>
      {!out && (
        <>
          <span className="quiet">, now {one.now}</span>
          <span className={its.range}>
            <TypedBlank label={`Lowest ${one.name}`} how={one.how} {...low} />
            <Sets one={one} view={view} />
            <TypedBlank label={`Highest ${one.name}`} how={one.how} {...high} />
          </span>
        </>
      )}
    </li>
  );
}

function Sets({ one, view }: { one: VariedView; view: SearchView | undefined }) {
  const values = view?.points.values[one.path] ?? [];
  const space = view?.space.find((each) => each.path === one.path) ?? one;
  const place = (value: number) => (LENGTH * (value - space.low)) / Math.max(1e-12, space.high - space.low);
  const lines = (kept: boolean) =>
    values.map((value, k) => (view?.points.kept[k] === kept ? `M${place(value).toFixed(1)},1V11` : "")).join("");
  const good = values.filter((_, k) => view?.points.kept[k]);
  const said = good.length > 0 ? `${good.length} of ${values.length} sets keep every promise` : "";
  return (
    <svg viewBox={`-1 0 ${LENGTH + 2} 12`} preserveAspectRatio="none" role="img" aria-label={said || "the range"}>
      <title>{said}</title>
      <path d={`M0,6H${LENGTH}`} className={its.base} vectorEffect="non-scaling-stroke" />
      <path d={lines(false)} className={its.others} vectorEffect="non-scaling-stroke" />
      <path d={lines(true)} className={its.good} vectorEffect="non-scaling-stroke" />
    </svg>
  );
}
