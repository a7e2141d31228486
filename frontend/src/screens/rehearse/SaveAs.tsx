import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useMemo, useRef, useState } from "react";
import { useOffered } from "../../shared/acts/acts";
import { answered, api } from "../../shared/api/client";
import its from "./rehearse.module.css";

interface Props {
  plan: number;
  group: string;
  /** What words hold that was refused, and so is not saved with the rest. */
  held: string[];
  /** The take at work, once nothing is under way. */
  settled: () => Promise<number | null>;
  /** The newest arrangement that is known here, and the one that the take came from. */
  newest: number;
  from: number;
  /** What it would be called if no note is written. */
  change: string;
}

/** Saves a take as the next arrangement, with a note. */
export function SaveAs({ plan, group, held, settled, newest, from, change }: Props) {
  const [note, setNote] = useState<string | null>(null);
  const queries = useQueryClient();
  const [over, setOver] = useState(false);
  const save = useMutation({
    mutationFn: (take: number) =>
      answered(
        api.POST("/api/plans/{plan_id}/groups/{group}/arrangements", {
          params: { path: { plan_id: plan, group } },
          body: { take, note: note ?? "", after: over ? newest : from },
        }),
      ),
    onSuccess: () => {
      setNote(null);
      setOver(false);
    },
    // Whoever was told of a newer arrangement may save over it.
    onError: () => setOver(true),
    onSettled: () => queries.invalidateQueries({ predicate: ({ queryKey }) => queryKey[0] !== "takes" }),
  });
  useOffered(
    useMemo(
      () => [
        {
          group: "Do here",
          label: `Save as arrangement ${newest + 1}`,
          about: change,
          also: "keep version",
          run: () => setNote(""),
        },
      ],
      [newest, change],
    ),
  );
  const without = useRef(held);
  without.current = held;
  const submit = async (event: FormEvent) => {
    event.preventDefault();
    const known = held.length;
    const take = await settled();
    // What was refused only now is told before anything is saved without it.
    if (take !== null && without.current.length <= known) save.mutate(take);
  };
  if (note === null)
    return (
      <button
        type="button"
        className="plain-button"
        onClick={() => setNote("")}
        title="Saved arrangements never change"
      >
        save as arrangement {newest + 1}
      </button>
    );
  return (
    <form className={its.saveAs} onSubmit={submit}>
      <input
        aria-label={`Note on arrangement ${newest + 1}`}
        placeholder={change}
        value={note}
        // biome-ignore lint/a11y/noAutofocus: saving was just asked for
        autoFocus
        onChange={(event) => setNote(event.target.value)}
        onKeyDown={(event) => event.key === "Escape" && setNote(null)}
      />
      <button type="submit" className="solid-button" disabled={save.isPending}>
        {over ? `Save over ${newest}` : `Save ${newest + 1}`}
        {held.length > 0 && " without it"}
      </button>
      <button type="button" className="plain-button" onClick={() => setNote(null)}>
        leave
      </button>
      {held.map((one) => (
        <p key={one} className="wrong" role="alert">
          Not saved with it, since it was refused: {one}
        </p>
      ))}
      {save.error && (
        <p className="wrong" role="alert">
          {save.error.message}
        </p>
      )}
    </form>
  );
}
