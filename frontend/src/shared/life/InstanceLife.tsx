import { Link } from "react-router";
import type { LiveView } from "../api/client";
import its from "./life.module.css";

interface Props {
  group: string;
  number: number;
  life: NonNullable<LiveView["instance"]>;
}

/** The life of an instance that lives, and the lines of the journal that name it, each with its moment. */
export function InstanceLife({ group, number, life }: Props) {
  return (
    <section className={its.life} aria-label={`The life of ${group} ${number}`}>
      <p>{life.facts.map(({ heading, text }) => `${heading}: ${text}`).join("; ")}.</p>
      <ul>
        {life.events.map((event) => (
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
