import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import { type Act, useOffered } from "../../shared/acts/acts";
import { answered, api, type WatchingView } from "../../shared/api/client";
import { keptBy } from "../../shared/gesture/handling";
import { Words } from "../../shared/words/Words";
import its from "./live.module.css";

type Change = { op: "set" | "add" | "remove"; path: string; value?: unknown };

const NEWEST = 8;
const QUIET = { from: "22:00", until: "07:00" };

/** What was told, when somebody is to be told, and where it is sent. */
export function NoticesPanel({
  plan,
  goTo,
  close,
}: {
  plan: number;
  goTo: (at: number, group: string) => void;
  close: () => void;
}) {
  const queries = useQueryClient();
  const [all, setAll] = useState(false);
  const path = { plan_id: plan };
  const key = ["live part", plan, "watching"];
  const watching = useQuery({
    queryKey: key,
    placeholderData: keepPreviousData,
    queryFn: () => answered(api.GET("/api/plans/{plan_id}/watching", { params: { path } })),
  });
  const put = (next: WatchingView) => queries.setQueryData(key, next);
  const change = useMutation({
    scope: { id: "watching" },
    mutationFn: (body: Change) =>
      answered(api.POST("/api/plans/{plan_id}/watching/changes", { params: { path }, body })),
    onSuccess: put,
  });
  const { mutate, mutateAsync } = change;
  const handling = keptBy((path, value) => mutateAsync({ op: "set", path, value }));
  const view = watching.data;
  useOffered(
    useMemo(
      (): Act[] =>
        (view?.offers ?? []).map((one) => ({
          group: "Do here",
          label: `Tell ${one.text}`,
          also: one.also,
          run: () => mutate({ op: "add", path: "watches", value: one.kind }),
        })),
      [view?.offers, mutate],
    ),
  );
  const wrong = change.error ?? watching.error;
  return (
    <section className={its.journal} aria-label="Notices">
      <div className={its.journalHead}>
        <h2>Notices</h2>
        <button type="button" className="plain-button" onClick={close}>
          journal
        </button>
      </div>
      {wrong && (
        <p className="wrong" role="alert">
          {wrong.message}
        </p>
      )}
      <ol className={its.notices}>
        {view?.notices.slice(0, all ? undefined : NEWEST).map((one) => (
          <li key={one.number}>
            <time>{one.clock}</time>
            <span className={one.over ? "quiet" : undefined}>{one.text}</span>
            <button
              type="button"
              className="plain-button"
              aria-label={`Why, at ${one.clock}`}
              onClick={() => goTo(one.at, one.group)}
            >
              why
            </button>
          </li>
        ))}
      </ol>
      {view && view.notices.length > NEWEST && (
        <button type="button" className="plain-button" aria-expanded={all} onClick={() => setAll(!all)}>
          {all ? "only the newest" : `${view.notices.length - NEWEST} older ones`}
        </button>
      )}
      {view?.notices.length === 0 && <p className="quiet">Nothing was told yet.</p>}
      <h3>When to tell</h3>
      {view?.rules.map((rule, place) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a rule has nothing but its place
        <p key={place} className={its.rule}>
          <Words words={rule.words} handling={handling} />{" "}
          <button
            type="button"
            className="plain-button"
            onClick={() => mutate({ op: "set", path: `watches.${place}.quiet`, value: rule.quiet ? null : QUIET })}
          >
            {rule.quiet ? "− quiet hours" : "+ quiet hours"}
          </button>{" "}
          <button
            type="button"
            className="plain-button"
            aria-label={`take out rule ${place + 1}`}
            onClick={() => mutate({ op: "remove", path: `watches.${place}` })}
          >
            take out
          </button>
        </p>
      ))}
      <p className={its.offered}>
        {view?.offers.map((one) => (
          <button
            key={one.kind}
            type="button"
            className="plain-button"
            onClick={() => mutate({ op: "add", path: "watches", value: one.kind })}
          >
            + {one.text}
          </button>
        ))}
      </p>
      {view && <Targets plan={plan} view={view} put={put} />}
    </section>
  );
}

/** Addresses to which notices are sent, each with its secret, a trial, and what came of it. */
function Targets({ plan, view, put }: { plan: number; view: WatchingView; put: (next: WatchingView) => void }) {
  const queries = useQueryClient();
  const [url, setUrl] = useState<string | null>(null);
  const [open, setOpen] = useState<number | null>(null);
  const add = useMutation({
    mutationFn: (wanted: string) =>
      answered(
        api.POST("/api/plans/{plan_id}/watching/targets", {
          params: { path: { plan_id: plan } },
          body: { url: wanted },
        }),
      ),
    onSuccess: (next) => {
      setUrl(null);
      put(next);
    },
  });
  const drop = useMutation({
    mutationFn: (number: number) =>
      answered(
        api.DELETE("/api/plans/{plan_id}/watching/targets/{number}", { params: { path: { plan_id: plan, number } } }),
      ),
    onSuccess: put,
  });
  const trial = useMutation({
    mutationFn: (number: number) =>
      answered(
        api.POST("/api/plans/{plan_id}/watching/targets/{number}/trial", {
          params: { path: { plan_id: plan, number } },
        }),
      ),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["live part", plan, "watching"] }),
  });
  const wrong = add.error ?? drop.error ?? trial.error;
  return (
    <>
      <h3>Sent to</h3>
      {view.targets.length === 0 && <p className="quiet">Nowhere but this page.</p>}
      {view.targets.map((target) => (
        <div key={target.number} className={its.rule}>
          <b>{target.url}</b>{" "}
          <button
            type="button"
            className="plain-button"
            disabled={trial.isPending}
            onClick={() => trial.mutate(target.number)}
          >
            try it
          </button>{" "}
          <button
            type="button"
            className="plain-button"
            aria-expanded={open === target.number}
            onClick={() => setOpen(open === target.number ? null : target.number)}
          >
            secret and deliveries
          </button>{" "}
          <button
            type="button"
            className="plain-button"
            aria-label={`take out ${target.url}`}
            onClick={() => drop.mutate(target.number)}
          >
            take out
          </button>
          {target.said && <small className="quiet"> {target.said}</small>}
          {open === target.number && (
            <>
              <p>
                Signed with <code>{target.secret}</code>
              </p>
              <ol>
                {view.deliveries
                  .filter((one) => one.url === target.url)
                  .map((one) => (
                    <li key={one.number}>
                      <span>{one.text}</span>
                      <span className={one.done ? "quiet" : "wrong"}>
                        {one.said || "on its way"}
                        {one.again && `, ${one.again}`}
                      </span>
                    </li>
                  ))}
              </ol>
            </>
          )}
        </div>
      ))}
      {url === null ? (
        <button type="button" className="plain-button" onClick={() => setUrl("")}>
          + address
        </button>
      ) : (
        <form
          onSubmit={(event) => {
            event.preventDefault();
            add.mutate(url);
          }}
        >
          <input
            aria-label="Address"
            placeholder="https://…, then Enter"
            value={url}
            // biome-ignore lint/a11y/noAutofocus: it was just asked for
            autoFocus
            onChange={(event) => setUrl(event.target.value)}
            onKeyDown={(event) => event.key === "Escape" && setUrl(null)}
          />
        </form>
      )}
      {wrong && (
        <p className="wrong" role="alert">
          {wrong.message}
        </p>
      )}
    </>
  );
}
