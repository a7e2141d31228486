import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { answered, api } from "../../shared/api/client";
import type { components } from "../../shared/api/schema.generated";

type Body =
  | components["schemas"]["CountByHand"]
  | components["schemas"]["ChangeCount"]
  | components["schemas"]["OneInstance"]
  | components["schemas"]["LoadInstance"]
  | components["schemas"]["PausePolicy"]
  | components["schemas"]["ResumePolicy"]
  | components["schemas"]["HoldGroup"]
  | components["schemas"]["DryRun"]
  | components["schemas"]["ActAs"]
  | components["schemas"]["EntryNow"]
  | components["schemas"]["RollOut"]
  | components["schemas"]["RolloutByHand"]
  | components["schemas"]["EndGroup"]
  | components["schemas"]["LeaveAlone"]
  | components["schemas"]["LoadService"]
  | components["schemas"]["StopLoad"]
  | components["schemas"]["Trouble"]
  | components["schemas"]["Silence"];
export type Hand = Body;

export interface Hands {
  lay: (hand: Hand, back?: Hand) => void;
  putToWork: (arrangement: number) => void;
  /** What is asked first, where the page is not of now. */
  asked: { asOf: string; on: () => void; leave: () => void } | null;
  /** What was done last, and what takes it back. */
  done: { said: string; back: Hand | null } | null;
  refused: string | null;
  busy: boolean;
}

/** What hands do to one group; what was done last can be taken back where there is a way. Where the page is not of now, they are
 * asked before they act. */
export function useHands(plan: number, group: string, asOf: string | null): Hands {
  const queries = useQueryClient();
  const [done, setDone] = useState<Hands["done"]>(null);
  const [waiting, setWaiting] = useState<(() => void) | null>(null);
  const path = { plan_id: plan, group };
  const after = (said: string, back: Hand | null) => {
    setDone({ said, back });
    void queries.invalidateQueries({ queryKey: ["live", plan] });
    void queries.invalidateQueries({ queryKey: ["live part", plan] });
  };
  const lay = useMutation({
    // One after the other, as they were meant
    scope: { id: "hands" },
    mutationFn: ({ hand }: { hand: Hand; back: Hand | null }) =>
      answered(api.POST("/api/plans/{plan_id}/live/groups/{group}/hands", { params: { path }, body: hand as never })),
    onSuccess: (laid, { back }) => after(laid.said, back),
  });
  const work = useMutation({
    mutationFn: (number: number) =>
      answered(
        api.POST("/api/plans/{plan_id}/live/groups/{group}/arrangements/{number}/work", {
          params: { path: { ...path, number } },
        }),
      ),
    onSuccess: (laid) => after(laid.said, null),
  });
  const leave = () => setWaiting(null);
  const act = (run: () => void) => (asOf === null ? run() : setWaiting(() => run));
  return {
    lay: (hand, back) => act(() => lay.mutate({ hand, back: back ?? null })),
    putToWork: (arrangement) => act(() => work.mutate(arrangement)),
    asked: waiting && {
      asOf: asOf ?? "",
      on: () => {
        waiting();
        leave();
      },
      leave,
    },
    done,
    refused: lay.error?.message ?? work.error?.message ?? null,
    busy: lay.isPending || work.isPending,
  };
}
