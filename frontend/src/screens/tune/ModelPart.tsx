import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { useAddress } from "../../shared/acts/address";
import { answered, api, type ColumnView, type PlanView } from "../../shared/api/client";
import { sent } from "../../shared/api/form";
import { FileChoice, SERIES_FILES } from "../../shared/files/FileChoice";
import { CourseChart, ScatterChart } from "./FitCharts";
import its from "./tune.module.css";

/** What was observed of a group, and what it says of the figures that a rehearsal is told. */
export function ModelPart({ plan, group, take }: { plan: PlanView; group: string; take: number | null }) {
  const address = useAddress();
  const navigate = useNavigate();
  const queries = useQueryClient();
  const [file, setFile] = useState<File | null>(null);
  const [named, setNamed] = useState<Record<string, string>>({});
  const [perInstance, setPerInstance] = useState(false);
  const [lived, setLived] = useState(false);
  const [left, setLeft] = useState<string[]>([]);
  const path = { plan_id: plan.id, group };
  const fit = useQuery({
    queryKey: ["fit", plan.id, group, take, lived, file?.name, file?.size, file?.lastModified, named, perInstance],
    enabled: lived || file !== null,
    retry: false,
    placeholderData: (before) => before,
    queryFn: () => {
      if (lived)
        return answered(
          api.GET("/api/plans/{plan_id}/groups/{group}/fits/lived", { params: { path, query: { take } } }),
        );
      const form = new FormData();
      form.set("file", file as File);
      for (const [column, as] of Object.entries(named)) form.append("columns", `${column}=${as}`);
      form.set("per_instance", String(perInstance));
      if (take !== null) form.set("take", String(take));
      return answered(
        api.POST("/api/plans/{plan_id}/groups/{group}/fits/file", {
          params: { path },
          ...sent(form),
        }),
      );
    },
  });
  const view = fit.data;
  const settable = (view?.estimates ?? []).filter((one) => one.path !== null && !left.includes(one.path));
  const make = useMutation({
    mutationFn: () =>
      answered(
        api.POST("/api/plans/{plan_id}/groups/{group}/rehearsals", {
          params: { path },
          body: {
            take,
            keep: true,
            buckets: 1,
            changes: settable.map((one) => ({ op: "set" as const, path: one.path ?? "", value: one.value })),
          },
        }),
      ),
    onSuccess: async (answer) => {
      await queries.invalidateQueries({ queryKey: ["takes", plan.id, group] });
      navigate(`/rehearse/${group}?take=${answer.take.number}`);
    },
  });
  const choose = (next: File) => {
    setFile(next);
    setNamed({});
    setLived(false);
  };
  const name = (column: ColumnView, quantity: string, unit: string) =>
    setNamed((now) => ({ ...now, [column.name]: unit ? `${quantity}:${unit}` : quantity }));
  return (
    <main className={its.tune}>
      <section className={its.asked} aria-label="What was observed">
        <h1>{group}</h1>
        <p>
          <button type="button" className="plain-button" onClick={() => address.choose({ part: null })}>
            ← settings
          </button>
        </p>
        <h2>Observed</h2>
        <p>
          <FileChoice text="bring a file" accept={SERIES_FILES} choose={choose} /> with a column for the time and one
          for each of what was measured, or take{" "}
          <button
            type="button"
            className="plain-button"
            aria-pressed={lived}
            onClick={() => {
              setLived(true);
              setFile(null);
            }}
          >
            what was lived
          </button>
          .
        </p>
        {file && <p>{file.name}</p>}
        {view && view.columns.length > 0 && (
          <>
            <h2>Its columns</h2>
            <ul>
              {view.columns.map((column) => (
                <li key={column.name} className={view.asks.includes(column.name) ? "wrong" : undefined}>
                  {column.name} is{" "}
                  <select
                    aria-label={`What ${column.name} is`}
                    value={column.quantity ?? "nothing"}
                    onChange={(event) => name(column, event.target.value, "")}
                  >
                    {view.quantities.map((one) => (
                      <option key={one}>{one}</option>
                    ))}
                  </select>
                  {column.units.length > 0 && (
                    <>
                      {" "}
                      <select
                        aria-label={`Unit of ${column.name}`}
                        value={column.unit ?? ""}
                        onChange={(event) => name(column, column.quantity ?? "nothing", event.target.value)}
                      >
                        {!column.unit && <option value="">in which unit?</option>}
                        {column.units.map((one) => (
                          <option key={one} value={one}>
                            {one.replaceAll("_", " ")}
                          </option>
                        ))}
                      </select>
                    </>
                  )}
                </li>
              ))}
            </ul>
            <p>
              <label>
                <input
                  type="checkbox"
                  checked={perInstance}
                  onChange={(event) => setPerInstance(event.target.checked)}
                />{" "}
                told of one instance, not of the group
              </label>
            </p>
          </>
        )}
        {view && view.asks.length > 0 && <p role="status">Say in which unit {view.asks.join(" and ")} is told.</p>}
        {view?.notes.map((note) => (
          <p key={note} className="quiet">
            {note}
          </p>
        ))}
        {fit.error && <p className="wrong">{fit.error.message}</p>}
      </section>
      <div className={its.found}>
        {!view && (
          <div className={its.none}>
            <h2>Is the model right?</h2>
            <p>
              A rehearsal is worth what it is told. From a monitoring export, or from what was lived here, the CPU of a
              request, what an idle instance burns, the base latency, the length of jobs and sessions and the time to
              serve are estimated, each with the range in which it lies nine times out of ten; and the past is rehearsed
              with the demand that came.
            </p>
          </div>
        )}
        {view && (view.estimates.length > 0 || view.not_told.length > 0) && (
          <section aria-label="Estimates" className={its.estimates}>
            {view.estimates.map((one) => (
              <article key={one.name}>
                <h2>
                  {one.path && (
                    <input
                      type="checkbox"
                      aria-label={`Take ${one.name}`}
                      checked={!left.includes(one.path)}
                      onChange={() =>
                        setLeft((now) =>
                          now.includes(one.path ?? "")
                            ? now.filter((other) => other !== one.path)
                            : [...now, one.path ?? ""],
                        )
                      }
                    />
                  )}{" "}
                  {one.name} {one.text}
                </h2>
                <p>
                  {one.interval}, nine times out of ten
                  {one.has !== null && (
                    <span className={one.apart ? "wrong" : undefined}>; the plan has {one.has}</span>
                  )}
                </p>
                <p className="quiet">{one.beside}</p>
                {one.scatter && <ScatterChart name={one.name} scatter={one.scatter} />}
              </article>
            ))}
            {view.not_told.map((one) => (
              <p key={one} className="quiet">
                Not told: {one}.
              </p>
            ))}
          </section>
        )}
        {settable.length > 0 && (
          <p>
            <button type="button" className="solid-button" disabled={make.isPending} onClick={() => make.mutate()}>
              Take these
            </button>{" "}
            as a take
            {make.error && <span className="wrong"> {make.error.message}</span>}
          </p>
        )}
        {view && view.course.length > 0 && (
          <section aria-label="The past rehearsed" className={its.past}>
            <h2>The past rehearsed</h2>
            <ul>
              {view.said.map((one) => (
                <li key={one}>{one}</li>
              ))}
            </ul>
            {view.course.map((one) => (
              <CourseChart key={one.what} course={one} zone={plan.time_zone} />
            ))}
          </section>
        )}
      </div>
    </main>
  );
}
