import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { answered, api, type MadeOf } from "../../shared/api/client";
import { InstanceLife } from "../../shared/life/InstanceLife";
import its from "./costs.module.css";

export interface Asked {
  begin: string;
  end: string;
  group: string | null;
  by: string | null;
  part: string | null;
}

interface Props {
  plan: number;
  asked: Asked;
  /** The instance whose life is read, as `group 12`. */
  instance: string | null;
  choose: (instance: string | null) => void;
  close: () => void;
}

/** What an amount is made of, instance by instance, each with its life and the lines of the journal that name it. */
export function MadeOfPanel({ plan, asked, instance, choose, close }: Props) {
  const found = useQuery({
    queryKey: ["costs", plan, "made of", asked],
    placeholderData: keepPreviousData,
    queryFn: () =>
      answered(
        api.GET("/api/plans/{plan_id}/costs/made-of", {
          params: { path: { plan_id: plan }, query: { ...asked, by: asked.by as "for" | null } },
        }),
      ),
  });
  const told: MadeOf | undefined = found.data;
  return (
    <section className={its.made} aria-label="What it is made of">
      <h2>
        {told ? `${told.amount}: ${told.title}` : "…"}{" "}
        <button type="button" className="plain-button" onClick={close}>
          close
        </button>
      </h2>
      {found.error && <p className="wrong">{found.error.message}</p>}
      <ol>
        {told?.rows.map((row) => {
          const name = row.instance === null ? null : `${row.group} ${row.instance}`;
          return (
            <li key={`${row.group} ${row.instance} ${row.text}`}>
              <span>
                {name === null ? (
                  row.group
                ) : (
                  <button
                    type="button"
                    className="plain-button"
                    aria-expanded={name === instance}
                    onClick={() => choose(name === instance ? null : name)}
                  >
                    {name}
                  </button>
                )}{" "}
                {row.text}
              </span>
              <b>{row.amount}</b>
              {name !== null && name === instance && (
                <ToldLife plan={plan} group={row.group} number={row.instance ?? 0} />
              )}
            </li>
          );
        })}
      </ol>
      {told?.more && <p className="quiet">{told.more}</p>}
    </section>
  );
}

function ToldLife({ plan, group, number }: { plan: number; group: string; number: number }) {
  const life = useQuery({
    queryKey: ["live part", plan, "life", group, number],
    queryFn: () =>
      answered(
        api.GET("/api/plans/{plan_id}/live/groups/{group}/instances/{number}", {
          params: { path: { plan_id: plan, group, number } },
        }),
      ),
  });
  return life.data ? <InstanceLife group={group} number={number} life={life.data} /> : null;
}
