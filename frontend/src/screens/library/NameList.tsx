import type { ReactNode } from "react";
import { useNavigate } from "react-router";
import its from "./library.module.css";

interface Props<One> {
  label: string;
  part: "templates" | "demands";
  ones: One[];
  shown: One | undefined;
  about: (one: One) => ReactNode;
  children: ReactNode;
}

/** What a part of the library has, by name; the chosen one is shown beside it. */
export function NameList<One extends { name: string }>({ label, part, ones, shown, about, children }: Props<One>) {
  const navigate = useNavigate();
  return (
    <section className={its.libraryList} aria-label={label}>
      {ones.map((one) => (
        <button
          key={one.name}
          type="button"
          aria-current={one === shown}
          className={its.listedName}
          onClick={() => navigate(`/library/${part}/${one.name}`)}
        >
          <b>{one.name}</b>
          {about(one)}
        </button>
      ))}
      {children}
    </section>
  );
}
