import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type PointerEvent, useState } from "react";
import { answered, api, type PlanView, Refusal } from "../api/client";
import { sent } from "../api/form";
import { Dialog } from "../dialog/Dialog";
import { Choice } from "../words/Choice";
import its from "./files.module.css";

interface Props {
  file: File;
  plan: PlanView;
  /** The demand that gets the series as one more layer; a demand of its own where there is none. */
  into: string | null;
  act: string;
  /** It is left. */
  close: () => void;
  /** It is kept under a name. */
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

const ZONES = ["UTC", ...Intl.supportedValuesOf("timeZone")];

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

/** The day of a file under the pointer, of so many that its outline shows. */
function dayAt(event: PointerEvent<SVGSVGElement>, days: number): number {
  const box = event.currentTarget.getBoundingClientRect();
  return Math.min(days - 1, Math.max(0, Math.floor(((event.clientX - box.left) / box.width) * days)));
}

/** A CSV on its way in: what was read, what was done about its rows, and what its errors are. */
export function BringDemand({ file, plan, into, act, close, done }: Props) {
  const [name, setName] = useState(() => nameFor(file.name, plan.demands));
  const [unit, setUnit] = useState("");
  const [gaps, setGaps] = useState("line");
  const [clock, setClock] = useState(plan.time_zone);
  const [day, setDay] = useState("");
  const [range, setRange] = useState<[number, number] | null>(null);
  const [length, setLength] = useState(plan.days);
  const [peak, setPeak] = useState("");
  const [like, setLike] = useState(plan.groups[0] ?? "");
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
    if (day) form.set("day", day);
    if (+peak > 0 && like) {
      form.set("peak", peak);
      form.set("like", like);
    }
    if (columns.time) form.set("time_column", columns.time);
    if (columns.value) form.set("value_column", columns.value);
    return answered(
      api.POST("/api/plans/{plan_id}/demands/file", {
        params: { path: { plan_id: plan.id } },
        ...sent(form),
      }),
    );
  };
  const read = useQuery({
    // Read anew for another frame: what is on its way of the one before is not taken for it.
    queryKey: [
      "brought",
      plan.revision,
      file.name,
      file.size,
      file.lastModified,
      unit,
      gaps,
      clock,
      columns,
      day,
      peak,
      like,
    ],
    queryFn: () => send(false),
    placeholderData: (before) => before,
    retry: false,
  });
  const keep = useMutation({
    mutationFn: () => send(true),
    onSuccess: (kept) => done(kept.name),
  });
  const queries = useQueryClient();
  const rehearseOn = useMutation({
    mutationFn: async (body: { field: "time_zone" | "days"; value: string | number }) => {
      const params = { path: { plan_id: plan.id } };
      // The frame need not stand on this screen, and is changed as it is
      await answered(api.GET("/api/plans/{plan_id}/frame", { params }));
      return answered(api.POST("/api/plans/{plan_id}/frame", { params, body }));
    },
    onSuccess: () => queries.invalidateQueries(),
  });
  const names = read.data?.columns ?? (read.error instanceof Refusal ? read.error.columns : []);
  const series = read.data && !read.data.time_column;
  const days = read.data?.days.length ?? 1;
  const shown = range ? [Math.min(...range) / days, (Math.max(...range) + 1) / days] : (read.data?.window ?? [0, 1]);
  const top = Math.max(1e-9, ...(read.data?.shape ?? []).map((value) => value ?? 0));
  return (
    <Dialog opened close={close} title={`Demand from ${file.name}`} size="lg">
      <form
        className={its.bringForm}
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
            <option value="">as its heading says, or a count a row</option>
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
                <input
                  aria-label="Clock of times without an offset"
                  list="file-zones"
                  placeholder="city"
                  defaultValue={clock}
                  onChange={(event) => {
                    const typed = event.target.value.trim().toLowerCase().replaceAll(" ", "_");
                    const zone = ZONES.find(
                      (one) => one.toLowerCase() === typed || one.toLowerCase().endsWith(`/${typed}`),
                    );
                    if (zone) setClock(zone);
                  }}
                />
                <datalist id="file-zones">
                  {ZONES.map((zone) => (
                    <option key={zone} value={zone} />
                  ))}
                </datalist>{" "}
                {clock !== plan.time_zone && <i>({clock})</i>} where they have no offset; values in{" "}
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
        {clock !== plan.time_zone && (
          <p>
            The plan is on the clock of {plan.time_zone}.{" "}
            <button
              type="button"
              className="plain-button"
              onClick={() => rehearseOn.mutate({ field: "time_zone", value: clock })}
            >
              rehearse the plan on {clock}
            </button>
            {rehearseOn.error && <span className="wrong"> {rehearseOn.error.message}</span>}
          </p>
        )}
        {read.data && read.data.sample.length > 0 && (
          <table className={its.sample} aria-label="The first rows">
            <tbody>
              {read.data.sample.map((row) => (
                <tr key={row.join()}>
                  {row.map((cell, place) => {
                    const column = read.data.columns[place];
                    const mark =
                      column === read.data.time_column ? "time" : column === read.data.value_column ? "value" : "";
                    return (
                      <td key={column} className={mark && its[mark]} title={mark}>
                        {cell}
                      </td>
                    );
                  })}
                </tr>
              ))}
            </tbody>
          </table>
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
            <svg
              viewBox={`0 0 ${read.data.shape.length - 1} 60`}
              preserveAspectRatio="none"
              role="img"
              aria-label="The file's outline: press a day to rehearse from it on, or drag over several"
              onPointerDown={(event) => {
                event.currentTarget.setPointerCapture(event.pointerId);
                const at = dayAt(event, read.data.days.length);
                setRange([at, at]);
              }}
              onPointerMove={(event) => {
                if (range && event.buttons) setRange([range[0], dayAt(event, read.data.days.length)]);
              }}
              onPointerUp={() => {
                if (!range) return;
                const [first, last] = [Math.min(...range), Math.max(...range)];
                setDay(read.data.days[first] ?? "");
                setLength(last > first ? last - first + 1 : plan.days);
                setRange(null);
              }}
            >
              <rect
                x={(shown[0] ?? 0) * (read.data.shape.length - 1)}
                width={((shown[1] ?? 1) - (shown[0] ?? 0)) * (read.data.shape.length - 1)}
                height="60"
                fill="var(--indigo)"
                opacity="0.12"
              />
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
            <p>
              {read.data.rehearsed}{" "}
              <select
                aria-label="Which days are rehearsed"
                value={day}
                onChange={(event) => setDay(event.target.value)}
              >
                <option value="">its own dates</option>
                <option value="busiest">its busiest stretch</option>
                {day !== "" && day !== "busiest" && <option value={day}>from {day}</option>}
              </select>{" "}
              {length !== plan.days && (
                <button
                  type="button"
                  className="plain-button"
                  onClick={() => rehearseOn.mutate({ field: "days", value: length })}
                >
                  rehearse {length} days, as dragged
                </button>
              )}{" "}
              {plan.groups.length > 0 && (
                <>
                  Scaled so that its peak needs{" "}
                  <input
                    aria-label="Instances that its peak needs"
                    className={its.few}
                    placeholder="as it is"
                    value={peak}
                    onChange={(event) => setPeak(event.target.value)}
                  />{" "}
                  instances of <Choice label="Whose instances" value={like} options={plan.groups} set={setLike} />
                  {read.data.scale !== 1 && `, which is ${read.data.scale} times`}.
                </>
              )}
            </p>
            {read.data.notes.map((note) => (
              <p key={note} className="quiet">
                {note}.
              </p>
            ))}
          </>
        )}
        {keep.error && <p className="wrong">{keep.error.message}</p>}
        <div className={its.actions}>
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
