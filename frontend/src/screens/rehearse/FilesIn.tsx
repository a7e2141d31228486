import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useState } from "react";
import { answered, api, type Change, type PlanView } from "../../shared/api/client";
import { BringDemand } from "../../shared/files/BringDemand";
import its from "../../shared/files/files.module.css";
import { ImportPlan, isPlan } from "../../shared/files/ImportPlan";

interface Props {
  plan: PlanView;
  group: string;
  file: File | null;
  setFile: (file: File | null) => void;
  preview: (changes: Change[]) => void;
  commit: (changes: Change[]) => void;
}

const isCalendar = (file: File) => /\.ics$/i.test(file.name);

/** What becomes of a file that was brought: a plan or a demand is looked at first, a calendar is tried at once. */
export function FilesIn({ plan, group, file, setFile, preview, commit }: Props) {
  const [unread, setUnread] = useState<string | null>(null);
  const queries = useQueryClient();
  useEffect(() => {
    if (!file || !isCalendar(file)) return;
    setFile(null);
    const read = async () => {
      const entries = await answered(
        api.POST("/api/plans/{plan_id}/groups/{group}/calendar", {
          params: { path: { plan_id: plan.id, group } },
          body: (await file.text()) as never,
          bodySerializer: (text) => text,
        }),
      );
      preview([{ op: "set", path: "calendar", value: entries }]);
      setUnread(null);
    };
    read().catch((cause: Error) => setUnread(`${file.name}: ${cause.message}`));
  }, [file, plan.id, group, setFile, preview]);
  const close = useCallback(() => setFile(null), [setFile]);
  const brought = useCallback(
    async (name: string) => {
      close();
      await queries.invalidateQueries({ queryKey: ["plan"] });
      commit([{ op: "set", path: "demand", value: name }]);
    },
    [queries, commit, close],
  );
  return (
    <>
      {unread && (
        <p className={`notice ${its.unread}`} role="alert">
          {unread}{" "}
          <button type="button" className="plain-button" onClick={() => setUnread(null)}>
            leave it
          </button>
        </p>
      )}
      {file && isPlan(file) && <ImportPlan file={file} plan={plan.id} close={close} />}
      {file && !isPlan(file) && !isCalendar(file) && (
        <BringDemand file={file} plan={plan} into={null} act="Rehearse against it" close={close} done={brought} />
      )}
    </>
  );
}
