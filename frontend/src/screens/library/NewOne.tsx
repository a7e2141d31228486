import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { useNavigate } from "react-router";
import its from "./library.module.css";

interface Props {
  noun: "template" | "demand";
  /** What it can be begun from, the first unless another is chosen: a value and its words. */
  sources: [string, string][];
  /** Begins it and gives the name that it got. */
  begin: (name: string, source: string) => Promise<string>;
  /** Other ways to a new one. */
  children?: ReactNode;
}

/** A new one in the library: its name, and what it is begun from. */
export function NewOne({ noun, sources, begin, children }: Props) {
  const [name, setName] = useState<string | null>(null);
  const [source, setSource] = useState("");
  const queries = useQueryClient();
  const navigate = useNavigate();
  const add = useMutation({
    mutationFn: () => begin(name ?? "", source || (sources[0]?.[0] ?? "")),
    onSuccess: async (made) => {
      setName(null);
      await queries.invalidateQueries();
      navigate(`/library/${noun}s/${made}`);
    },
  });
  if (name === null)
    return (
      <p className={its.newOne}>
        <button type="button" className="plain-button" onClick={() => setName("")}>
          a new {noun}
        </button>
        {children}
      </p>
    );
  return (
    <form
      className={its.newOne}
      onSubmit={(event) => {
        event.preventDefault();
        add.mutate();
      }}
    >
      <input
        aria-label={`Name of the new ${noun}`}
        placeholder={`name-of-${noun}`}
        value={name}
        // biome-ignore lint/a11y/noAutofocus: it was just asked for
        autoFocus
        onChange={(event) => setName(event.target.value)}
        onKeyDown={(event) => event.key === "Escape" && setName(null)}
      />
      <select aria-label="Begun like" value={source} onChange={(event) => setSource(event.target.value)}>
        {sources.map(([value, text]) => (
          <option key={value} value={value}>
            {text}
          </option>
        ))}
      </select>{" "}
      <button type="submit" className="plain-button" disabled={!name || add.isPending}>
        begin it
      </button>
      {add.error && <span className="wrong"> {add.error.message}</span>}
    </form>
  );
}
