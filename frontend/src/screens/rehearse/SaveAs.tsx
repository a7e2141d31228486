import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useMemo, useState } from "react";
import { useOffered } from "../../shared/acts/acts";
import { answered, api } from "../../shared/api/client";
import its from "./rehearse.module.css";

interface Props {
  plan: number;
  group: string;
  take: number;
  /** The newest arrangement that is known here, and the one that the take came from. */
  newest: number;
  from: number;
  /** What it would be called if no note is written. */
  change: string;
}

/** Saves a take as the next arrangement, with a note. */
export function SaveAs({ plan, group, take, newest, from, change }: Props) {
  const [note, setNote] = useState<string | null>(null);
  const queries = useQueryClient();
  const [over, setOver] = useState(false);
  const save = useMutation({
    mutationFn: () =>
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
  const submit = (event: FormEvent) => {
    event.preventDefault();
    save.mutate();
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
      </button>
      <button type="button" className="plain-button" onClick={() => setNote(null)}>
        leave
      </button>
      {save.error && (
        <p className="wrong" role="alert">
          {save.error.message}
        </p>
      )}
    </form>
  );
}
