import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { Link } from "react-router";
import { answered, api, type GroupRow, isProblem, Refusal } from "../../shared/api/client";
import { usePlan } from "../../shared/api/plan";
import { BringDemand } from "../../shared/files/BringDemand";
import { FileChoice } from "../../shared/files/FileChoice";
import filesSheet from "../../shared/files/files.module.css";
import { ImportPlan, isPlan } from "../../shared/files/ImportPlan";
import { useCarriedFile } from "../../shared/files/useCarriedFile";
import { held } from "../../shared/words/units";
import { Empty } from "./Empty";
import { FrameLine } from "./FrameLine";
import { GroupWeek } from "./GroupWeek";
import its from "./groups.module.css";
import { ManyLine } from "./ManyLine";
import { NewGroup } from "./NewGroup";
import { TogetherLine } from "./TogetherLine";

/** The groups of the plan, those that break a promise first; without a plan, what Jostle is for. */
export function GroupsScreen() {
  const { plan, none, error } = usePlan();
  const [many, setMany] = useState(false);
  const [adding, setAdding] = useState<{ demand?: string } | null>(null);
  const { file, setFile, over, handlers } = useCarriedFile();
  const began = useRef(false);
  const rows = useQuery({
    // A change while the rows are still being rehearsed would not ask for them anew; another revision does.
    queryKey: ["groups", plan?.id, plan?.revision],
    enabled: plan !== undefined,
    placeholderData: (before) => before,
    queryFn: () => answered(api.GET("/api/plans/{plan_id}/groups", { params: { path: { plan_id: plan?.id ?? 0 } } })),
  });
  const retired = useQuery({
    queryKey: ["retired", plan?.id, plan?.revision],
    enabled: plan !== undefined,
    queryFn: () => answered(api.GET("/api/plans/{plan_id}/retired", { params: { path: { plan_id: plan?.id ?? 0 } } })),
  });
  const queries = useQueryClient();
  const plan_id = plan?.id ?? 0;
  const days = useQuery({
    queryKey: ["live part", plan?.id, "days"],
    enabled: plan !== undefined,
    queryFn: () => answered(api.GET("/api/plans/{plan_id}/live/days", { params: { path: { plan_id } } })),
  });
  const copy = useMutation({
    mutationFn: ({ group, name }: { group: string; name: string }) =>
      answered(
        api.POST("/api/plans/{plan_id}/groups/{group}/copies", {
          params: { path: { plan_id, group } },
          body: { name },
        }),
      ),
    onSuccess: () => queries.invalidateQueries(),
  });
  const retire = useMutation({
    mutationFn: async (group: string) => {
      const { error } = await api.DELETE("/api/plans/{plan_id}/groups/{group}", {
        params: { path: { plan_id, group } },
      });
      if (error) throw new Refusal(isProblem(error) ? error.detail : "It could not be retired.", 0);
      return group;
    },
    onSuccess: () => queries.invalidateQueries(),
  });
  const bringBack = useMutation({
    mutationFn: (group: string) =>
      answered(api.POST("/api/plans/{plan_id}/groups/{group}/return", { params: { path: { plan_id, group } } })),
    onSuccess: async () => {
      retire.reset();
      await queries.invalidateQueries();
    },
  });
  const rename = useMutation({
    mutationFn: ({ group, name }: { group: string; name: string }) =>
      answered(
        api.POST("/api/plans/{plan_id}/groups/{group}/name", {
          params: { path: { plan_id, group } },
          body: { name },
        }),
      ),
    onSuccess: () => queries.invalidateQueries(),
  });
  const begun = (wanted: File | "group") => {
    began.current = wanted !== "group";
    if (wanted === "group") setAdding({});
    else setFile(wanted);
  };
  if (none) return <Empty begun={begun} />;
  const fault = copy.error ?? rename.error ?? retire.error;
  const broken = rows.data?.filter((row) => row.promises.some((promise) => !promise.kept)).length ?? 0;
  return (
    <main className={its.groups} {...handlers}>
      <div className={its.groupsHead}>
        <h1>{plan?.name}</h1>
        {rows.data && rows.data.length > 0 && (
          <p>
            {rows.data.length} {rows.data.length === 1 ? "group" : "groups"};{" "}
            {broken > 0 ? `${broken} ${broken === 1 ? "breaks" : "break"} a promise` : "every promise is kept"}.
          </p>
        )}
        <span className={its.headActs}>
          <button type="button" className="plain-button" onClick={() => setAdding({})}>
            New group
          </button>
          <button type="button" className="plain-button" onClick={() => setMany(true)}>
            change many
          </button>
          <FileChoice text="take a plan in" accept=".yaml,.yml,.json" choose={setFile} />
          <a className="plain-button" href={`/api/plans/${plan_id}/plan.yaml`} download>
            as saved: YAML
          </a>
          <a className="plain-button" href={`/api/plans/${plan_id}/document`} download="plan.json">
            JSON
          </a>
        </span>
      </div>
      {/* Above what is still to come, so that nothing moves under the pointer */}
      {many && plan && <ManyLine plan={plan} close={() => setMany(false)} />}
      {adding && plan && <NewGroup key={adding.demand} plan={plan} {...adding} close={() => setAdding(null)} />}
      {plan && <FrameLine plan_id={plan.id} />}
      {plan && rows.data && rows.data.length > 1 && <TogetherLine plan={plan} />}
      {(error ?? rows.error) && <p className="notice">{(error ?? rows.error)?.message}</p>}
      {rows.isPending && !error && <p style={{ padding: "10px 24px" }}>Rehearsing the groups</p>}
      {retired.data && retired.data.length > 0 && (
        <p className={its.retired} role="status">
          Retired, with arrangements that stay:{" "}
          {retired.data.map((group) => (
            <span key={group}>
              {group}{" "}
              <button type="button" className="plain-button" onClick={() => bringBack.mutate(group)}>
                Bring it back
              </button>{" "}
            </span>
          ))}
        </p>
      )}
      {fault && <p className="notice">{fault.message}</p>}
      {rows.data?.map((row) => (
        <Row
          key={row.name}
          row={row}
          lived={days.data?.find((one) => one.group === row.name && one.kept)?.text}
          copy={(name) => copy.mutate({ group: row.name, name })}
          rename={(name) => rename.mutate({ group: row.name, name })}
          retire={() => retire.mutate(row.name)}
        />
      ))}
      {rows.data?.length === 0 && !adding && (
        <p className={its.noGroups}>
          No group yet. A group runs instances of a template against a demand; write the first one, or bring the demand
          that it has to meet.
        </p>
      )}
      {over && <div className={filesSheet.drop}>Drop a plan (YAML or JSON) or a demand (CSV or OpenMetrics text)</div>}
      {file && plan && isPlan(file) && <ImportPlan file={file} plan={plan.id} close={() => setFile(null)} />}
      {file && plan && !isPlan(file) && (
        <BringDemand
          file={file}
          plan={plan}
          into={null}
          act="Write a group for it"
          close={async () => {
            setFile(null);
            // A plan that was begun for a file alone goes with it.
            if (began.current && plan.groups.length === 0) {
              began.current = false;
              await queries.cancelQueries();
              await api.DELETE("/api/plans/{plan_id}", { params: { path: { plan_id } } });
              window.location.assign("/");
            }
          }}
          done={async (demand) => {
            began.current = false;
            setFile(null);
            await queries.invalidateQueries();
            setAdding({ demand });
          }}
        />
      )}
    </main>
  );
}

interface RowProps {
  row: GroupRow;
  /** How many served yesterday, serve now and are likely to tomorrow, where the group is kept. */
  lived: string | undefined;
  copy: (name: string) => void;
  rename: (name: string) => void;
  retire: () => void;
}

function Row({ row, lived, copy, rename, retire }: RowProps) {
  const [naming, setNaming] = useState<"copy" | "name" | null>(null);
  return (
    <article className={row.host ? `${its.groupRow} ${its.guest}` : its.groupRow} aria-label={row.name}>
      <div>
        <h2>
          <Link to={`/rehearse/${row.name}`}>{row.name}</Link>
        </h2>
        <p className={its.line}>{held(row.line)}</p>
        {lived && <p className={its.lived}>{lived}</p>}
        {row.unsaved && (
          <p className={`${its.line} ${its.unsaved}`}>Shown as take {row.take} has it, which is not saved.</p>
        )}
        <p className={its.acts}>
          {naming ? (
            <input
              aria-label={naming === "copy" ? `Name of the copy of ${row.name}` : `New name of ${row.name}`}
              placeholder={naming === "copy" ? "name-of-copy" : "new-name"}
              // biome-ignore lint/a11y/noAutofocus: a name was just asked for
              autoFocus
              onBlur={() => setNaming(null)}
              onKeyDown={(event) => {
                if (event.key === "Escape") setNaming(null);
                if (event.key !== "Enter") return;
                (naming === "copy" ? copy : rename)(event.currentTarget.value);
                setNaming(null);
              }}
            />
          ) : (
            <>
              <button type="button" className="plain-button" onClick={() => setNaming("copy")}>
                copy
              </button>
              <button type="button" className="plain-button" onClick={() => setNaming("name")}>
                rename
              </button>
            </>
          )}
          <button type="button" className="plain-button" onClick={retire}>
            retire
          </button>
        </p>
      </div>
      <GroupWeek row={row} />
    </article>
  );
}
