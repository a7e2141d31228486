import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { answered, api } from "../api/client";
import its from "./life.module.css";

interface Props {
  plan: number;
  group: string;
  number: number;
}

/** The life of an instance that lives, and the lines of the journal that name it, each with its moment. */
export function InstanceLife({ plan, group, number }: Props) {
  const life = useQuery({
    queryKey: ["live part", plan, "life", group, number],
    queryFn: () =>
      answered(
        api.GET("/api/plans/{plan_id}/live/groups/{group}/instances/{number}", {
          params: { path: { plan_id: plan, group, number } },
        }),
      ),
  });
  if (!life.data) return null;
  return (
    <section className={its.life} aria-label={`The life of ${group} ${number}`}>
      <p>{life.data.facts.map(({ heading, text }) => `${heading}: ${text}`).join("; ")}.</p>
      <ul>
        {life.data.events.map((event) => (
          <li key={event.time + event.text}>
            <Link to={`/live?group=${group}&why=${Date.parse(event.time)}`}>
              {event.time.slice(0, 16).replace("T", " ")}
            </Link>{" "}
            {event.text}
          </li>
        ))}
      </ul>
    </section>
  );
}
