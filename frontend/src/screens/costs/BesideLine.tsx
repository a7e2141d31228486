import type { CostsView } from "../../shared/api/client";
import its from "./costs.module.css";

const DAY = 86_400_000;
const WAYS = [
  { text: "the days before", back: (days: number) => days },
  { text: "a week before", back: (days: number) => 7 * Math.ceil(days / 7) },
];

/** What the chosen days cost, and what as many others did. */
export function BesideLine({ view, choose }: { view: CostsView; choose: (beside: string | null) => void }) {
  const days = (Date.parse(view.end) - Date.parse(view.begin)) / DAY + 1;
  const begin = (back: number) => new Date(Date.parse(view.begin) - back * DAY).toISOString().slice(0, 10);
  return (
    <p className={its.beside}>
      <b>{view.cost}</b>
      {view.beside ? (
        <>
          {" "}
          against <b>{view.beside.cost}</b> from {view.beside.span}: {view.beside.change}{" "}
          <button type="button" className="plain-button" onClick={() => choose(null)}>
            alone
          </button>
        </>
      ) : (
        <>
          <span className="quiet">compare with</span>
          {WAYS.map((way) => (
            <button key={way.text} type="button" className="plain-button" onClick={() => choose(begin(way.back(days)))}>
              {way.text}
            </button>
          ))}
        </>
      )}
    </p>
  );
}
