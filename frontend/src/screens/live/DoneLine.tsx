import type { Hands } from "./useHands";

/** What was done by hand last, with what takes it back; or why it was refused. */
export function DoneLine({ hands }: { hands: Hands }) {
  const { done, refused, lay } = hands;
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
