import { useElementSize } from "@mantine/hooks";
import { useQuery } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { useParams } from "react-router";
import { type Act, useOffered } from "../../shared/acts/acts";
import { useAddress } from "../../shared/acts/address";
import { answered, api } from "../../shared/api/client";
import { usePlan } from "../../shared/api/plan";
import filesSheet from "../../shared/files/files.module.css";
import { useCarriedFile } from "../../shared/files/useCarriedFile";
import type { Handling } from "../../shared/gesture/handling";
import { useVaried } from "../../shared/words/useVaried";
import { ArrangementsPanel } from "./ArrangementsPanel";
import { BandLine } from "./BandLine";
import { ComparePanel } from "./ComparePanel";
import { FilesIn } from "./FilesIn";
import { LifePanel } from "./LifePanel";
import { MadeLine } from "./MadeLine";
import { MomentPanel, useMoment } from "./MomentPanel";
import { Page } from "./Page";
import { PageHead } from "./PageHead";
import its from "./rehearse.module.css";
import { ShortPanel } from "./ShortPanel";
import type { Edits } from "./strips/kinds";
import { Strips } from "./strips/Strips";
import { Takes } from "./Takes";
import { TakesPanel } from "./TakesPanel";
import { useBand } from "./useBand";
import { useRefusals } from "./useRefusals";
import { useRehearsal } from "./useRehearsal";
import { useUndo } from "./useUndo";
import { VaryLine } from "./VaryLine";
import { Verdict } from "./Verdict";
import verdictSheet from "./verdict.module.css";

// Each bucket keeps its lowest and highest value, so that fewer buckets than pixels still lose no spike.
const BUCKETS_PER_PIXEL = 0.6;
const SHOWN_AROUND = 3 * 3_600_000;

/** The main screen: the arrangement as sentences on the left, the week that follows from it on the right. */
export function RehearseScreen() {
  const { group = "" } = useParams();
  const { plan, error } = usePlan();
  if (error) return <p className="notice">{error.message}</p>;
  if (plan && !plan.groups.includes(group)) return <p className="notice">There is no group called {group}.</p>;
  return <Workbench key={group} group={group} />;
}

/** How often Back or Forward has led here. */
function useWent(): number {
  const [went, setWent] = useState(0);
  useEffect(() => {
    const count = () => setWent((times) => times + 1);
    window.addEventListener("popstate", count);
    return () => window.removeEventListener("popstate", count);
  }, []);
  return went;
}

function Workbench({ group }: { group: string }) {
  const { plan } = usePlan();
  const address = useAddress();
  const { choose } = address;
  const refetchOnWindowFocus = true;
  const { ref, width } = useElementSize();
  const [from, to] = [address.number("begin"), address.number("end")];
  const strips = address.text("strips") ?? "";
  const besides = useMemo(() => strips.split(",").filter(Boolean), [strips]);
  const chosen = {
    take: address.number("take"),
    span: from !== null && to !== null ? { begin: from, end: to } : null,
    metrics: besides,
    went: useWent(),
  };
  const buckets = width === 0 ? 0 : Math.min(1500, Math.max(200, Math.round(width * BUCKETS_PER_PIXEL)));
  const toTake = useCallback((take: number, how?: "instead") => choose({ take }, how), [choose]);
  const desk = useRehearsal(plan?.id, group, buckets, chosen, toTake);
  const { answer, changes } = desk;
  const path = { plan_id: plan?.id ?? 0, group };
  const [at, instance, ghostOf] = [address.number("at"), address.number("instance"), address.number("ghost")];
  const side = address.text("beside");
  const { file, setFile, over, handlers } = useCarriedFile();

  const takes = useQuery({
    queryKey: ["takes", plan?.id, group],
    refetchOnWindowFocus,
    enabled: plan !== undefined,
    queryFn: () => answered(api.GET("/api/plans/{plan_id}/groups/{group}/takes", { params: { path } })),
  });
  const arrangements = useQuery({
    queryKey: ["arrangements", plan?.id, group],
    refetchOnWindowFocus,
    enabled: plan !== undefined,
    queryFn: () => answered(api.GET("/api/plans/{plan_id}/groups/{group}/arrangements", { params: { path } })),
  });
  const shown = answer?.picture;
  const ghost = useQuery({
    queryKey: ["ghost", plan?.id, group, ghostOf, shown?.begin, shown?.end, buckets],
    enabled: plan !== undefined && ghostOf !== null && shown !== undefined,
    placeholderData: (before) => before,
    queryFn: () =>
      answered(
        api.POST("/api/plans/{plan_id}/groups/{group}/ghosts", {
          params: { path },
          body: { take: ghostOf ?? 0, begin: shown?.begin ?? null, end: shown?.end ?? null, buckets },
        }),
      ),
  });
  const band = useBand(plan?.id, group, answer?.take.number ?? null, shown ?? null, buckets);
  const moment = useMoment(plan?.id, group, answer, changes, at);

  const refused = useRefusals(plan?.id, group, changes.length === 0 ? answer?.take.number : undefined);

  const span = answer?.picture;
  useEffect(() => {
    if (!span) return;
    const all = span.begin === span.whole.begin && span.end === span.whole.end;
    // The address follows a zoom once it rests.
    const timer = setTimeout(
      () => choose(all ? { begin: null, end: null } : { begin: span.begin, end: span.end }, "instead"),
      150,
    );
    return () => clearTimeout(timer);
  }, [span, choose]);

  const { preview, commit, putBack } = desk;
  const [vary, varies] = useVaried(plan?.id, group);
  const [held, setHeld] = useState<Record<string, string>>({});
  const beginning = useRef(new Set<Promise<void>>());
  const rest = desk.settled;
  const settled = useCallback(async () => {
    while (beginning.current.size > 0) await Promise.allSettled(beginning.current);
    return rest();
  }, [rest]);
  const handling: Handling = useMemo(
    () => ({
      preview: (path, value) => preview([{ op: "set", path, value }]),
      commit: (path, value) => commit([{ op: "set", path, value }]),
      putBack,
      begins: (edit) => {
        beginning.current.add(edit);
        edit.finally(() => beginning.current.delete(edit));
      },
      holds: (path, refused) =>
        setHeld(({ [path]: _, ...others }) => (refused === null ? others : { ...others, [path]: refused })),
      vary: {
        paths: vary,
        toggle: (path) => varies(vary.includes(path) ? vary.filter((one) => one !== path) : [...vary, path]),
      },
    }),
    [preview, commit, putBack, vary, varies],
  );
  const { keepTried, look } = desk;
  const edits: Edits = useMemo(() => ({ preview, commit, keepTried, putBack }), [preview, commit, keepTried, putBack]);
  const showBesides = useCallback((metrics: string[]) => choose({ strips: metrics.join(",") }), [choose]);
  const explain = useCallback(
    (time: number) => choose({ at: Math.round(time), instance: null, beside: null }),
    [choose],
  );
  const { previous, following } = moment.data ?? {};
  const [begin, end] = [shown?.begin ?? 0, shown?.end ?? 0];
  const walk = useCallback(
    (by: -1 | 1) => {
      const next = by < 0 ? previous : following;
      if (next === null || next === undefined) return;
      choose({ at: Math.round(next) }, "instead");
      if (next < begin || next > end) look(next - (end - begin) / 2, next + (end - begin) / 2);
    },
    [previous, following, begin, end, look, choose],
  );
  const show = useCallback(
    (time: number) => {
      look(time - SHOWN_AROUND, time + SHOWN_AROUND);
      choose({ at: Math.round(time) });
    },
    [look, choose],
  );
  useOffered(
    useMemo(
      (): Act[] => [
        {
          group: "Do here",
          label: "Why is the count what it is",
          about: "In the middle of what is shown; from there to the changes before and after",
          also: "reason explain cause decision nothing happened",
          run: () => explain(at ?? (begin + end) / 2),
        },
      ],
      [explain, at, begin, end],
    ),
  );
  const closeMoment = useCallback(() => choose({ at: null }), [choose]);
  const lookAt = useCallback((one: number) => choose({ instance: one, beside: null }), [choose]);
  const list = useCallback(() => choose({ beside: "arrangements" }), [choose]);
  const listShort = useCallback(() => choose({ beside: "short" }), [choose]);
  const listTakes = useCallback(() => choose({ beside: "takes" }), [choose]);
  const compare = useCallback((ghost: number) => choose({ ghost, beside: "compare" }), [choose]);
  const closeSide = useCallback(() => choose({ beside: null }), [choose]);
  useUndo(`jostle.undone ${plan?.id} ${group}`, answer?.take, desk.goTo);
  return (
    <main className={its.rehearse} {...handlers}>
      <div className={its.left} data-page>
        <div className={its.page}>
          <PageHead
            plan={path.plan_id}
            planName={plan?.name}
            group={group}
            answer={answer}
            newest={arrangements.data?.[0]}
            list={list}
            held={Object.values(held)}
            settled={settled}
          />
          {answer && (
            <VaryLine
              group={group}
              take={answer.take.number}
              sections={answer.page}
              paths={vary}
              clear={() => varies([])}
            />
          )}
          {answer && (
            <Page
              sections={answer.page}
              distributions={answer.picture.distributions}
              commit={commit}
              handling={handling}
              calendar={answer.picture.calendar}
              edits={edits}
              refused={refused}
              handAt={at ?? (begin + end) / 2}
              bring={setFile}
              show={show}
            />
          )}
        </div>
        {side === "arrangements" && (
          <ArrangementsPanel
            plan={path.plan_id}
            group={group}
            lines={arrangements.data ?? []}
            goTo={desk.goTo}
            close={closeSide}
          />
        )}
        {side === "short" && answer && (
          <ShortPanel
            plan={path.plan_id}
            group={group}
            answer={answer}
            changes={changes}
            at={at}
            show={show}
            commit={commit}
            close={closeSide}
          />
        )}
        {side === "takes" && answer && (
          <TakesPanel
            plan={path.plan_id}
            group={group}
            takes={takes.data ?? []}
            current={answer.take.number}
            goTo={desk.goTo}
            compare={compare}
            close={closeSide}
          />
        )}
        {side === "compare" && answer && ghostOf !== null && ghostOf !== answer.take.number && (
          <ComparePanel
            plan={path.plan_id}
            group={group}
            first={ghostOf}
            second={answer.take.number}
            close={closeSide}
          />
        )}
        {side === null && instance !== null && answer && plan && (
          <LifePanel
            plan={plan.id}
            group={group}
            answer={answer}
            changes={changes}
            instance={instance}
            choose={lookAt}
            close={() => choose({ instance: null })}
          />
        )}
        {side === null && at !== null && instance === null && (
          <MomentPanel query={moment} close={closeMoment} walk={walk} />
        )}
      </div>
      <div className={its.right} ref={ref}>
        {desk.error && (
          <p className="notice" role="alert">
            {desk.error}
          </p>
        )}
        {answer && (
          <>
            <Verdict verdict={answer.verdict} short={listShort} />
            <div className={verdictSheet.takesRow}>
              <Takes
                takes={takes.data ?? []}
                current={answer.take.number}
                change={answer.changed ? answer.change : null}
                keep={desk.keepTried}
                putBack={desk.putBack}
                ghost={ghostOf}
                goTo={desk.goTo}
                setGhost={(ghost) => choose({ ghost })}
                compare={compare}
                list={listTakes}
                plan={path.plan_id}
                group={group}
              />
              <MadeLine answer={answer} desk={desk} band={band} />
            </div>
            <BandLine desk={band} />
            <Strips
              picture={answer.picture}
              band={band.band}
              ghost={ghostOf !== null ? (ghost.data ?? null) : null}
              zone={answer.time_zone}
              at={moment.data?.at ?? at}
              choose={explain}
              walk={walk}
              closeMoment={closeMoment}
              look={look}
              handling={handling}
              edits={edits}
              besides={besides}
              setBesides={showBesides}
              instance={instance}
              setInstance={lookAt}
            />
          </>
        )}
        {!answer && !desk.error && <p className="quiet">Rehearsing {group}</p>}
      </div>
      {over && (
        <div className={filesSheet.drop}>
          Drop a demand (CSV or OpenMetrics text), a calendar (.ics) or a plan (YAML or JSON)
        </div>
      )}
      {plan && <FilesIn {...{ plan, group, file, setFile, preview, commit }} />}
    </main>
  );
}
