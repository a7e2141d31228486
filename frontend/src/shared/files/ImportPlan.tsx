import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { answered, api } from "../api/client";
import { Dialog } from "../dialog/Dialog";
import its from "./files.module.css";

interface Props {
  file: File;
  plan: number;
  close: () => void;
}

/** A plan file on its way in: what it would change, before anything is. */
export function ImportPlan({ file, plan, close }: Props) {
  const queries = useQueryClient();
  const send = async (keep: boolean) =>
    answered(
      api.POST("/api/plans/{plan_id}/import", {
        params: { path: { plan_id: plan }, query: { keep } },
        body: (await file.text()) as never,
        bodySerializer: (text) => text,
      }),
    );
  const read = useQuery({
    queryKey: ["import", plan, file.name, file.size, file.lastModified],
    queryFn: () => send(false),
    retry: false,
    gcTime: 0,
  });
  const keep = useMutation({
    mutationFn: () => send(true),
    onSuccess: async () => {
      await queries.invalidateQueries();
      close();
    },
  });
  const found = read.data;
  return (
    <Dialog opened close={close} title={`Plan from ${file.name}`} size="lg">
      <div className={its.bringForm}>
        {read.isPending && <p className="quiet">Reading</p>}
        {(read.error ?? keep.error) && (
          <ul className="notice" role="alert">
            {(read.error ?? keep.error)?.message.split("\n").map((fault) => (
              <li key={fault}>{fault}</li>
            ))}
          </ul>
        )}
        {found && (
          <>
            <p>
              {found.differences.length === 0 ? "It changes nothing" : "It would change this"}; {found.unchanged}{" "}
              {found.unchanged === 1 ? "group stays" : "groups stay"} as they are.
            </p>
            <ul className={its.importList}>
              {found.differences.map((one) => (
                <li key={`${one.noun} ${one.name}`} className={one.what === "gone" ? its.gone : undefined}>
                  <span className="quiet">{one.noun}</span> <b>{one.name}</b> {one.text}
                </li>
              ))}
            </ul>
          </>
        )}
        <div className={its.actions}>
          <button
            type="button"
            className="solid-button"
            disabled={!found || found.differences.length === 0 || keep.isPending}
            onClick={() => keep.mutate()}
          >
            Take it in
          </button>
          <button type="button" className="plain-button" onClick={close}>
            Leave it
          </button>
        </div>
      </div>
    </Dialog>
  );
}

/** Whether a file is a plan rather than a series, by its name. */
export function isPlan(file: File): boolean {
  return /\.(ya?ml|json)$/i.test(file.name);
}
