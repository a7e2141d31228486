import { Asking } from "./Asking";
import type { Hands } from "./useHands";

/** What was done by hand last, with what takes it back; why it was refused; or what is asked first, where the page is not of now. */
export function DoneLine({ hands }: { hands: Hands }) {
  const { asked, done, refused, lay } = hands;
  if (asked)
    return (
      <Asking act="do it all the same" on={asked.on} leave={asked.leave}>
        What you see is {asked.asOf || "a moment old"}; what is so now may be otherwise.
      </Asking>
    );
  if (refused) return <p className="wrong">{refused}</p>;
  if (!done) return null;
  const { back } = done;
  return (
    <p role="status" className="quiet">
      Done: {done.said}.{" "}
      {back && (
        <button type="button" className="plain-button" onClick={() => lay(back)}>
          undo
        </button>
      )}
    </p>
  );
}
