import { type ReactNode, useEffect, useMemo, useRef, useState } from "react";
import { type Act, useOffered } from "../../shared/acts/acts";
import { useAddress } from "../../shared/acts/address";
import type { GroupLife, LiveGroup, LiveView, PlanView } from "../../shared/api/client";
import { usePlan } from "../../shared/api/plan";
import { Members } from "../../shared/life/Members";
import { clockText } from "../../shared/time/clock";
import { Nothing } from "../../shared/words/Nothing";
import { TypedBlank } from "../../shared/words/TypedBlank";
import { Bays } from "./Bays";
import { ClockBar } from "./ClockBar";
import { ElsewherePanel } from "./ElsewherePanel";
import { HandsLine } from "./HandsLine";
import { JournalPanel } from "./JournalPanel";
import its from "./live.module.css";
import { NoticesPanel } from "./NoticesPanel";
import { ProgressLine } from "./ProgressLine";
import { OneLaunch, SinglesPanel } from "./SinglesPanel";
import { TapeRow } from "./TapeRow";
import { type Hands, useHands } from "./useHands";
import { useLive } from "./useLive";
import { WhyPanel } from "./WhyPanel";

/** The groups as they live on the stand-in: seen, explained, and steered by hand. */
export function LiveScreen() {
  const { plan } = usePlan();
  return plan ? <Lived plan={plan} /> : null;
}

function Lived({ plan }: { plan: PlanView }) {
  const address = useAddress();
  const live = useLive(plan.id, {
    group: address.text("group"),
    instance: address.count("instance"),
    of: address.text("of"),
    changes: address.text("only") !== null,
    before: address.count("before"),
  });
  const view = live.view.data;
  if (live.view.isPending)
    return (
      <p className="waits" role="status">
        The groups come to where they stood.
      </p>
    );
  if (live.view.error)
    return (
      <p className="notice" role="alert">
        {live.view.error.message}
      </p>
    );
  if (!view)
    return (
      <NotBegun live={live} groups={plan.groups.length}>
        <ElsewherePanel plan={plan.id} groups={plan.groups} />
      </NotBegun>
    );
  return <Running plan={plan} view={view} live={live} />;
}

interface NotBegunProps {
  live: ReturnType<typeof useLive>;
  groups: number;
  children: ReactNode;
}

function NotBegun({ live, groups, children }: NotBegunProps) {
  const [days, setDays] = useState<number | null>(31 * 86400);
  return (
    <Nothing title="Nothing is kept yet.">
      <p>
        Here the groups run, rather than being rehearsed: a keeper holds each as its newest arrangement says, on a
        stand-in for a cloud whose clock goes as fast as you like. Every change and every silence has its reason, and
        you can reach in: set the count, pin, drain, kill, load, pause, hold.
      </p>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          if (days !== null) live.begin.mutate(days / 86400);
        }}
      >
        <button type="submit" className="solid-button" disabled={groups === 0 || days === null || live.begin.isPending}>
          Keep the groups on the stand-in
        </button>{" "}
        for <TypedBlank label="How long" how={{ measure: "duration", unit: "d" }} first="31 d" set={setDays} />
      </form>
      {groups === 0 && <p className="quiet">Write a group first.</p>}
      {live.begin.error && <p className="wrong">{live.begin.error.message}</p>}
      {groups > 0 && children}
    </Nothing>
  );
}

interface RunningProps {
  plan: PlanView;
  view: LiveView;
  live: ReturnType<typeof useLive>;
}

function Running({ plan, view, live }: RunningProps) {
  const address = useAddress();
  const [ending, setEnding] = useState(false);
  const names = view.groups.map((group) => group.name);
  const single = view.singles.find((one) => one.name === address.text("group"));
  const chosen = view.groups.find((group) => group.name === address.text("group")) ?? view.groups[0];
  const why = address.number("why");
  const { clock, step } = live;
  const { choose } = address;
  const at = view.now;
  useOffered(
    useMemo(
      (): Act[] => [
        { group: "Do here", label: "Pause the clock", also: "stop time", run: () => clock.mutate({ running: false }) },
        {
          group: "Do here",
          label: "Let the clock run",
          also: "start time",
          run: () => clock.mutate({ running: true }),
        },
        {
          group: "Do here",
          label: "Go to the next change",
          also: "step forward scale",
          run: () => step.mutate({ to: "next change" }),
        },
        {
          group: "Do here",
          label: "Why is the count what it is",
          also: "reason explain cause decision nothing happened",
          run: () => choose({ why: at }),
        },
      ],
      [clock.mutate, step.mutate, choose, at],
    ),
  );
  const tape = view.groups[0]?.tape;
  const [first, last] = [tape?.times[0] ?? 0, tape?.times.at(-1) ?? 1];
  const now = (view.now - first) / (last - first);
  const hour = (at: number) => clockText(at, view.time_zone).slice(-5);
  return (
    <main className={its.live}>
      <h1 className="sr">Live</h1>
      <ClockBar view={view} live={live} />
      <div className={its.left}>
        <div className={its.axis} aria-hidden>
          <span>{hour(first)}</span>
          <span style={{ left: `${now * 100}%` }} className={its.axisNow}>
            now {hour(view.now)}
          </span>
          <span className={its.axisEnd}>likely until {hour(last)}</span>
        </div>
        <ul className={its.rows} aria-label="Groups">
          {view.groups.map((group) => (
            <TapeRow
              key={group.name}
              group={group}
              now={now}
              chosen={group === chosen}
              choose={() => address.choose({ group: group.name, instance: null })}
            >
              {group === chosen && !single && view.shown.name === group.name && (
                <OneGroup
                  plan={plan}
                  group={group}
                  life={view.shown}
                  told={view.instance}
                  now={view.now}
                  asOf={live.asOf}
                />
              )}
            </TapeRow>
          ))}
        </ul>
        <p className={its.legend}>
          <span className={its.keyDemand}>demand</span> <span className={its.keyCapacity}>capacity</span>{" "}
          <span className={its.keyRehearsed}>capacity as rehearsed</span> <span className={its.keyLikely}>likely</span>{" "}
          <span className={its.keyChange}>change of the count</span>
        </p>
        <SinglesPanel
          plan={plan.id}
          singles={view.singles}
          chosen={single?.name ?? null}
          choose={(name) => address.choose({ group: name, instance: null })}
        />
        {single && view.shown.name === single.name && (
          <OneLaunch key={single.name} plan={plan.id} life={view.shown} asOf={live.asOf} />
        )}
        <ElsewherePanel plan={plan.id} groups={plan.groups} />
        <p className={its.ending}>
          {ending ? (
            <span role="alert">
              Every instance ends, and what was lived since {view.begun} is lost; the arrangements stay, and what it
              cost stays in Costs.{" "}
              <button type="button" className="solid-button" onClick={() => live.end.mutate()}>
                end it
              </button>{" "}
              <button type="button" className="plain-button" onClick={() => setEnding(false)}>
                leave it
              </button>
            </span>
          ) : (
            <button type="button" className="plain-button" onClick={() => setEnding(true)}>
              end all of it
            </button>
          )}
        </p>
      </div>
      <div className={its.right}>
        {why !== null && chosen && (
          <WhyPanel
            plan={plan.id}
            group={chosen.name}
            at={why}
            goTo={(at) => address.choose({ why: at }, "instead")}
            close={() => address.choose({ why: null })}
          />
        )}
        {address.text("told") !== null ? (
          <NoticesPanel
            plan={plan.id}
            goTo={(at, group) => address.choose({ why: at, ...(names.includes(group) ? { group } : {}) })}
            close={() => address.choose({ told: null })}
          />
        ) : (
          <JournalPanel
            lines={view.journal}
            groups={names}
            of={address.text("of")}
            only={address.text("only") !== null}
            before={address.number("before")}
            choose={(wanted) => address.choose(wanted)}
          />
        )}
      </div>
    </main>
  );
}

/** What can be done by hand about the rollout that is under way. */
function RolloutHands({ rollout, lay }: { rollout: NonNullable<GroupLife["rollout"]>; lay: Hands["lay"] }) {
  const acts = [
    ...(rollout.held || rollout.stopped
      ? ([["go on", "go on with rollout"]] as const)
      : rollout.going_back
        ? []
        : ([["pause it", "pause rollout"]] as const)),
    ...(rollout.stopped || rollout.going_back ? [] : ([["stop it", "stop rollout"]] as const)),
    ...(rollout.going_back ? [] : ([["turn it back", "turn rollout back"]] as const)),
  ];
  return acts.map(([text, act]) => (
    <button
      key={act}
      type="button"
      className="plain-button"
      aria-label={`${text}: ${rollout.name}`}
      onClick={() => lay({ act })}
    >
      {text}
    </button>
  ));
}

interface OneGroupProps {
  plan: PlanView;
  group: LiveGroup;
  life: GroupLife;
  /** The life of the instance that is looked at. */
  told: LiveView["instance"];
  now: number;
  asOf: string | null;
}

function OneGroup({ plan, group, life, told, now, asOf }: OneGroupProps) {
  const address = useAddress();
  const hands = useHands(plan.id, group.name, asOf);
  const shown = useRef<HTMLElement>(null);
  useEffect(() => {
    shown.current?.parentElement?.scrollIntoView({ block: "nearest" });
  }, []);
  return (
    <section ref={shown} aria-label={group.name} className={its.one}>
      <h2>
        <span className="sr">{group.name}</span> <small>{life.summary}</small>
      </h2>
      <ul className={its.policies}>
        {life.policies.map((policy) => (
          <li key={policy.name}>
            <span>
              <b>{policy.name}</b>: {policy.text}{" "}
              <button
                type="button"
                className="plain-button"
                aria-label={`act so now, as ${policy.name} would`}
                onClick={() => hands.lay({ act: "act as", policy: policy.name }, { act: "set", count: group.wanted })}
              >
                act so now
              </button>
            </span>
            <b className={`ink-${policy.tone === "none" ? "quiet" : policy.tone}`}>{policy.outcome}</b>
          </li>
        ))}
        {life.entries.map((entry) => (
          <li key={entry.name}>
            <span>
              <b>{entry.name}</b>: {entry.text}{" "}
              <button
                type="button"
                className="plain-button"
                aria-label={`${entry.holds ? "end it now" : "begin it now"}: ${entry.name}`}
                onClick={() =>
                  hands.lay(
                    { act: entry.holds ? "end entry" : "begin entry", entry: entry.name },
                    { act: entry.holds ? "begin entry" : "end entry", entry: entry.name },
                  )
                }
              >
                {entry.holds ? "end it now" : "begin it now"}
              </button>
            </span>
            <b className="ink-quiet">{entry.holds ? "holds now" : ""}</b>
          </li>
        ))}
        {life.rollout && (
          <li>
            <span>
              <b>{life.rollout.name}</b>: {life.rollout.text} <RolloutHands rollout={life.rollout} lay={hands.lay} />
            </span>
            <b className="ink-calendar">rollout</b>
          </li>
        )}
        {life.waits.map((wait) => (
          <li key={wait}>
            <b className="ink-wait">{wait}</b>
          </li>
        ))}
      </ul>
      <p>
        {life.decision}{" "}
        <button type="button" className="plain-button" onClick={() => address.choose({ group: group.name, why: now })}>
          why
        </button>
      </p>
      {life.progress && <ProgressLine progress={life.progress} />}
      {life.behind && <Members behind={life.behind} />}
      <Bays life={life} />
      <HandsLine
        plan={plan.id}
        group={group}
        life={life}
        told={told}
        hands={hands}
        instance={address.number("instance")}
      />
    </section>
  );
}
