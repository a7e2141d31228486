import { useQuery } from "@tanstack/react-query";
import { answered, api } from "../../shared/api/client";
import { Outline } from "../../shared/chart/Outline";
import its from "./live.module.css";

interface Props {
  plan: number;
  group: string;
  arrangement: number;
  put: () => void;
  leave: () => void;
}

/** What will happen if an arrangement is put to work, from how things stand, before it is. */
export function WorkPanel({ plan, group, arrangement, put, leave }: Props) {
  const outlook = useQuery({
    queryKey: ["live part", plan, "outlook", group, arrangement],
    retry: false,
    queryFn: () =>
      answered(
        api.GET("/api/plans/{plan_id}/live/groups/{group}/arrangements/{number}/outlook", {
          params: { path: { plan_id: plan, group, number: arrangement } },
        }),
      ),
  });
  const told = outlook.data;
  return (
    <section className={`${its.asked} ${its.block}`} aria-label={`What arrangement ${arrangement} will bring`}>
      {outlook.error && <p className="wrong">{outlook.error.message}</p>}
      {!told && !outlook.error && <p className="quiet">Rehearsing it from how things stand</p>}
      {told && (
        <>
          <p>
            <b>Arrangement {arrangement}</b>: {told.change}.
          </p>
          <ul>
            {told.lines.map((line) => (
              <li key={line}>{line}</li>
            ))}
          </ul>
          <div className={its.outlook}>
            <Outline
              demand={told.now}
              capacity={told.then}
              label="Instances likely to serve: as it is, a line; with the arrangement, the area"
            />
            <small className="quiet">instances in the next 6 h: as it is, the line; with it, the area</small>
          </div>
          <button type="button" className="solid-button" onClick={put}>
            Put it to work
          </button>
        </>
      )}
      <button type="button" className="plain-button" onClick={leave}>
        leave it
      </button>
    </section>
  );
}
