import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answered, api, type PlanView, Refusal } from "../api/client";
import { Dialog } from "../dialog/Dialog";
import { Choice } from "../words/Choice";

interface Props {
  file: File;
  plan: PlanView;
  /** The demand that gets the series as one more layer; a demand of its own where there is none. */
  into: string | null;
  act: string;
  close: () => void;
  done: (name: string) => void;
}

const UNITS = [
  ["requests_per_second", "so many a second"],
  ["requests_per_minute", "so many a minute"],
  ["requests_per_hour", "so many an hour"],
  ["requests", "so many since the row before"],
] as const;
const GAPS = [
  ["line", "a straight line"],
  ["hold", "the last value held"],
  ["zero", "zero"],
] as const;

function nameFor(file: string, taken: string[]): string {
  const plain = file
    .replace(/\.[^.]*$/, "")
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, "-")
    .replace(/^-|-$/g, "")
    .slice(0, 50);
  const stem = plain || "brought";
  return [stem, ...Array.from({ length: 98 }, (_, k) => `${stem}-${k + 2}`)].find((n) => !taken.includes(n)) ?? stem;
}

/** A CSV on its way in: what was read, what was done about its rows, and what its errors are. */
export function BringDemand({ file, plan, into, act, close, done }: Props) {
  const [name, setName] = useState(() => nameFor(file.name, plan.demands));
  const [unit, setUnit] = useState("");
  const [gaps, setGaps] = useState("line");
  const [clock, setClock] = useState(plan.time_zone);
  const [columns, setColumns] = useState({ time: "", value: "" });
  const send = (keep: boolean) => {
    const form = new FormData();
    form.set("file", file);
    form.set("name", name);
    form.set("gaps", gaps);
    form.set("clock", clock);
    form.set("keep", String(keep));
    if (unit) form.set("unit", unit);
    if (into) form.set("into", into);
    if (columns.time) form.set("time_column", columns.time);
    if (columns.value) form.set("value_column", columns.value);
    return answered(
      api.POST("/api/plans/{plan_id}/demands/file", {
        params: { path: { plan_id: plan.id } },
        body: form as never,
        bodySerializer: (body) => body as unknown as FormData,
      }),
    );
  };
  const read = useQuery({
    queryKey: ["brought", file.name, file.size, file.lastModified, unit, gaps, clock, columns],
    queryFn: () => send(false),
    placeholderData: (before) => before,
    retry: false,
  });
  const keep = useMutation({
    mutationFn: () => send(true),
    onSuccess: (kept) => {
      close();
      done(kept.name);
    },
  });
  const names = read.data?.columns ?? (read.error instanceof Refusal ? read.error.columns : []);
  const series = read.data && !read.data.time_column;
  const top = Math.max(1e-9, ...(read.data?.shape ?? []).map((value) => value ?? 0));
  return (
    <Dialog opened close={close} title={`Demand from ${file.name}`} size="lg">
      <form
        className="bring-form"
        onSubmit={(event) => {
          event.preventDefault();
          keep.mutate();
        }}
      >
        <p>
          {into ? (
            "Its "
          ) : (
            <>
              Call it{" "}
              <input
                aria-label="Name of the demand"
                data-autofocus
                value={name}
                onChange={(e) => setName(e.target.value)}
              />
              , its{" "}
            </>
          )}
          values are{" "}
          <select aria-label="Unit" value={unit} onChange={(e) => setUnit(e.target.value)}>
            <option value="">as its heading says</option>
            {UNITS.map(([one, text]) => (
              <option key={one} value={one}>
                {text}
              </option>
            ))}
          </select>
          , gaps are filled by{" "}
          <select aria-label="Gaps" value={gaps} onChange={(e) => setGaps(e.target.value)}>
            {GAPS.map(([value, text]) => (
              <option key={value} value={value}>
                {text}
              </option>
            ))}
          </select>
          .
        </p>
        {names.length > 1 && (
          <p>
            {series ? (
              "The series is "
            ) : (
              <>
                Times stand in{" "}
                <Choice
                  label="Column of the times"
                  value={columns.time || read.data?.time_column || ""}
                  options={names}
                  none="a column"
                  set={(time) => setColumns({ ...columns, time })}
                />
                , on the clock of{" "}
                <Choice
                  label="Clock of times without an offset"
                  value={clock}
                  options={[...new Set([plan.time_zone, "UTC", Intl.DateTimeFormat().resolvedOptions().timeZone])]}
                  set={setClock}
                />{" "}
                where they have no offset; values in{" "}
              </>
            )}
            <Choice
              label="Column of the values"
              value={columns.value || read.data?.value_column || ""}
              options={names}
              none="a column"
              set={(value) => setColumns({ ...columns, value })}
            />
            .
          </p>
        )}
        {read.isPending && <p className="quiet">Reading</p>}
        {read.error && (
          <ul className="notice" role="alert">
            {read.error.message.split("; ").map((fault) => (
              <li key={fault}>{fault}</li>
            ))}
          </ul>
        )}
        {read.data && !read.isError && (
          <>
            <svg viewBox={`0 0 ${read.data.shape.length - 1} 60`} preserveAspectRatio="none" aria-hidden>
              <path
                d={read.data.shape
                  .map((v, k) => `${k === 0 ? "M" : "L"}${k},${(58 - (54 * (v ?? 0)) / top).toFixed(1)}`)
                  .join("")}
                fill="none"
                stroke="var(--indigo)"
                vectorEffect="non-scaling-stroke"
              />
            </svg>
            <p>
              {read.data.rows.toLocaleString("en-GB")} rows, each {read.data.unit}, {read.data.step} apart, from{" "}
              {read.data.first} ({plan.time_zone}) for {read.data.length}; {read.data.lowest} to {read.data.highest}.
            </p>
            {read.data.notes.map((note) => (
              <p key={note} className="quiet">
                {note}.
              </p>
            ))}
          </>
        )}
        {keep.error && <p className="wrong">{keep.error.message}</p>}
        <div className="actions">
          <button type="submit" className="solid-button" disabled={!read.data || read.isError || keep.isPending}>
            {act}
          </button>
          <button type="button" className="plain-button" onClick={close}>
            Leave it
          </button>
        </div>
      </form>
    </Dialog>
  );
}
