import { useState } from "react";
import type { ElsewhereGroup } from "../../shared/api/client";
import its from "./live.module.css";
import { useElsewhere } from "./useElsewhere";

interface Props {
  plan: number;
  /** The groups of the plan, by name. */
  groups: string[];
}

/** Groups that are kept at a provider in another process: how each stood last, and since when its provider is away. */
export function ElsewherePanel({ plan, groups }: Props) {
  const elsewhere = useElsewhere(plan);
  const [open, setOpen] = useState(false);
  const free = groups.filter((name) => !elsewhere.kept.some((one) => one.group === name));
  const wrong = elsewhere.steer.error ?? elsewhere.again.error ?? elsewhere.letGo.error;
  return (
    <section aria-label="Kept elsewhere" className={its.singles}>
      <h2>
        Elsewhere <small>at a provider in another process, as the clock there goes</small>
      </h2>
      {elsewhere.kept.map((one) => (
        <One key={one.group} one={one} elsewhere={elsewhere} />
      ))}
      {open && free.length > 0 ? (
        <KeepForm groups={free} elsewhere={elsewhere} close={() => setOpen(false)} />
      ) : (
        <button type="button" className="plain-button" disabled={free.length === 0} onClick={() => setOpen(true)}>
          keep a group elsewhere
        </button>
      )}
      {wrong && (
        <p className="wrong" role="alert">
          {wrong.message}
        </p>
      )}
    </section>
  );
}

function One({ one, elsewhere }: { one: ElsewhereGroup; elsewhere: ReturnType<typeof useElsewhere> }) {
  const { group } = one;
  return (
    <article aria-label={`${group} elsewhere`} className={`${its.one} ${its.elsewhere}`}>
      <h3>
        {group}{" "}
        <small>
          at {one.url}, arrangement {one.arrangement}
          {one.held && ", held by hand"}
          {one.dry && ", a dry run"}
        </small>
      </h3>
      {one.away && (
        <p className="wrong" role="alert">
          {one.away}
        </p>
      )}
      {one.trouble && (
        <p className="wrong" role="alert">
          Kept no more: {one.trouble}.{" "}
          <button type="button" className="plain-button" onClick={() => elsewhere.again.mutate(group)}>
            keep on
          </button>
        </p>
      )}
      <p>
        {one.clock && <time>{one.clock}</time>}
        {one.clock && ": "}
        {one.summary}
      </p>
      <ul className={its.policies}>
        {one.policies.map((policy) => (
          <li key={policy.name}>
            <span>
              <b>{policy.name}</b>: {policy.text}
            </span>
            <b className={`ink-${policy.tone === "none" ? "quiet" : policy.tone}`}>{policy.outcome}</b>
          </li>
        ))}
      </ul>
      {one.lines.length > 0 && (
        <ol className={its.decided} aria-label={`What was decided for ${group}`}>
          {one.lines.map((line) => (
            <li key={`${line.clock} ${line.text}`}>
              <time>{line.clock}</time> {line.text}
            </li>
          ))}
        </ol>
      )}
      <p>
        <button
          type="button"
          className="plain-button"
          onClick={() => elsewhere.steer.mutate({ group, held: !one.held })}
        >
          {one.held ? "let its policies act" : "hold it"}
        </button>{" "}
        <button type="button" className="plain-button" onClick={() => elsewhere.steer.mutate({ group, dry: !one.dry })}>
          {one.dry ? "order again" : "dry run"}
        </button>{" "}
        <button type="button" className="plain-button" onClick={() => elsewhere.letGo.mutate(group)}>
          let it go: its instances stay
        </button>
      </p>
    </article>
  );
}

function KeepForm({
  groups,
  elsewhere,
  close,
}: {
  groups: string[];
  elsewhere: ReturnType<typeof useElsewhere>;
  close: () => void;
}) {
  const [group, setGroup] = useState(groups[0] ?? "");
  const [url, setUrl] = useState("");
  return (
    <form
      className={its.asked}
      aria-label="Keep a group elsewhere"
      onSubmit={(event) => {
        event.preventDefault();
        elsewhere.begin.mutate({ group, url: url.trim() }, { onSuccess: close });
      }}
    >
      Keep{" "}
      <select aria-label="Group" value={group} onChange={(event) => setGroup(event.target.value)}>
        {groups.map((name) => (
          <option key={name}>{name}</option>
        ))}
      </select>{" "}
      at{" "}
      <input
        aria-label="Address of the provider"
        placeholder="http://127.0.0.1:8640"
        value={url}
        // biome-ignore lint/a11y/noAutofocus: it was just asked for
        autoFocus
        onChange={(event) => setUrl(event.target.value)}
      />
      <button type="submit" className="solid-button" disabled={!url.trim() || elsewhere.begin.isPending}>
        Keep it there
      </button>
      <button type="button" className="plain-button" onClick={close}>
        leave it
      </button>
      {elsewhere.begin.error && (
        <span className="wrong" role="alert">
          {elsewhere.begin.error.message}
        </span>
      )}
    </form>
  );
}
