import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { answered, api } from "../../shared/api/client";
import { FileChoice, SERIES_FILES } from "../../shared/files/FileChoice";
import its from "./groups.module.css";

interface Props {
  /** A plan has just been begun; what is wanted of it. */
  begun: (wanted: File | "group") => void;
}

/** What a new user sees: what it is for, the demo data, or a beginning of their own. */
export function Empty({ begun }: Props) {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const again = () => queries.invalidateQueries({ queryKey: ["plan"] });
  const load = useMutation({
    mutationFn: () => answered(api.POST("/api/demo")),
    onSuccess: async () => {
      await again();
      navigate("/rehearse/booking-web");
    },
  });
  const open = useMutation({
    mutationFn: async (file: File) =>
      answered(api.POST("/api/plans", { body: (await file.text()) as never, bodySerializer: (text) => text })),
    onSuccess: again,
  });
  const start = useMutation({
    mutationFn: async (wanted: File | "group") => {
      const zone = Intl.DateTimeFormat().resolvedOptions().timeZone || "UTC";
      await answered(api.POST("/api/starter", { body: { name: "My groups", time_zone: zone } }));
      return wanted;
    },
    onSuccess: async (wanted) => {
      begun(wanted);
      await again();
    },
  });
  const fault = load.error ?? open.error ?? start.error;
  return (
    <main className={its.empty}>
      <h1>See the week before it happens.</h1>
      <p>
        Jostle rehearses an instance group against its demand: how many instances run, what they cost, when they fall
        short. Change a number and the week that follows is drawn at once. At every instant it says why the count is
        what it is.
      </p>
      <div className={its.actions}>
        <button type="button" className="solid-button" onClick={() => load.mutate()} disabled={load.isPending}>
          {load.isPending ? "Loading the demo data" : "Start with the demo data"}
        </button>
        <button type="button" className="plain-button" onClick={() => start.mutate("group")}>
          Write a new group
        </button>
        <FileChoice text="Bring a CSV of demand" accept={SERIES_FILES} choose={(file) => start.mutate(file)} />
        <FileChoice text="Open a plan file" accept=".yaml,.yml,.json" choose={(file) => open.mutate(file)} />
      </div>
      {fault && <p className="notice">{fault.message}</p>}
    </main>
  );
}
