import { useState } from "react";
import type { GroupLife, LiveGroup, LiveView } from "../../shared/api/client";
import { InstanceLife } from "../../shared/life/InstanceLife";
import { TypedBlank } from "../../shared/words/TypedBlank";
import { Asking } from "./Asking";
import { DoneLine } from "./DoneLine";
import its from "./live.module.css";
import { TemplateForm } from "./TemplateForm";
import { Copied, LoadForm, TroubleForm, VersionForm } from "./TryForms";
import type { Hand, Hands } from "./useHands";
import { WorkPanel } from "./WorkPanel";

interface Props {
  plan: number;
  group: LiveGroup;
  life: GroupLife;
  /** The life of the instance that is chosen. */
  told: LiveView["instance"];
  hands: Hands;
  instance: number | null;
}

type Asked =
  | "restart"
  | "end"
  | "template"
  | "count"
  | "kill"
  | "drain"
  | "load"
  | "service"
  | "trouble"
  | "work"
  | "version"
  | null;

// s
const PAUSE = 1800;

/** What can be done by hand to the group, and to the instance that is chosen. */
export function HandsLine({ plan, group, life, told, hands, instance }: Props) {
  const [asked, setAsked] = useState<Asked>(null);
  const [count, setCount] = useState<number | null>(group.wanted);
  const [cpu, setCpu] = useState<number | null>(0.9);
  const [length, setLength] = useState<number | null>(600);
  const tile = life.tiles.find((one) => one.number === instance);
  const lay = (hand: Hand, back?: Hand) => {
    setAsked(null);
    hands.lay(hand, back);
  };
  const set = (to: number) => lay({ act: "set", count: to }, { act: "set", count: group.wanted });
  const one = (act: "kill" | "drain", fewer: boolean) => instance !== null && lay({ act, instance, one_fewer: fewer });
  const atWork = !group.held && life.policies.some((policy) => !policy.paused);
  const paused = life.policies.some((policy) => policy.paused);
  return (
    <section className={its.hands} aria-label="By hand">
      <p>
        By hand: <Act on={() => setAsked(asked === "count" ? null : "count")}>set the count</Act>
        <Act on={() => lay({ act: "change count", by: 1 }, { act: "change count", by: -1 })}>one more</Act>
        <Act on={() => lay({ act: "change count", by: -1 }, { act: "change count", by: 1 })}>one fewer</Act>
        {paused ? (
          <Act on={() => lay({ act: "resume" })}>resume policies</Act>
        ) : (
          <Act on={() => lay({ act: "pause", for: PAUSE }, { act: "resume" })}>pause policies for 30 min</Act>
        )}
        {group.held ? (
          <Act on={() => lay({ act: "release" })}>let it change again</Act>
        ) : (
          <Act on={() => lay({ act: "hold" }, { act: "release" })}>hold the group</Act>
        )}
        {group.dry ? (
          <Act on={() => lay({ act: "act again" }, { act: "dry run" })}>let the keeper act again</Act>
        ) : (
          <Act on={() => lay({ act: "dry run" }, { act: "act again" })}>dry run</Act>
        )}
        {group.kept ? (
          <Act on={() => lay({ act: "leave alone" }, { act: "keep again" })}>leave it alone</Act>
        ) : (
          <Act on={() => lay({ act: "keep again" })}>keep it</Act>
        )}
        {group.note.includes("silent") ? (
          <Act on={() => lay({ act: "speak" })}>have its meters speak</Act>
        ) : (
          <Act on={() => lay({ act: "silence" }, { act: "speak" })}>silence its meters</Act>
        )}
        <Act on={() => setAsked(asked === "service" ? null : "service")}>load the service</Act>
        {life.loaded && <Act on={() => lay({ act: "stop load" })}>stop the load</Act>}
        <Act on={() => setAsked(asked === "trouble" ? null : "trouble")}>have something go wrong</Act>
        {life.ended ? (
          <Act on={() => lay({ act: "begin again" })}>begin it again</Act>
        ) : (
          <Act on={() => setAsked(asked === "end" ? null : "end")}>end the group</Act>
        )}
        {life.versions.length > 0 && (
          <Act on={() => setAsked(asked === "version" ? null : "version")}>bring in a version</Act>
        )}
        {group.newest !== group.arrangement && (
          <Act on={() => setAsked(asked === "work" ? null : "work")}>put arrangement {group.newest} to work</Act>
        )}
      </p>
      {asked === "end" && (
        <Asking
          act="end the group"
          on={() => lay({ act: "end group" }, { act: "begin again" })}
          leave={() => setAsked(null)}
        >
          {life.losses || "No instance"} of {group.name} will drain and end, and none comes until it is begun again.
          Those that are draining by then still go.
        </Asking>
      )}
      {tile && (
        <p>
          Instance {tile.number} at <Copied text={tile.address} label={`Address of instance ${tile.number}`} />,{" "}
          {[
            tile.said,
            ...(tile.where ? [tile.where] : []),
            ...(tile.bought ? [tile.bought] : []),
            ...tile.attached.map((one) => `on ${one}`),
            ...(tile.health ? [tile.health] : []),
          ].join(", ")}
          {tile.share !== null && `, answers ${Math.round(100 * tile.share)} %`}:{" "}
          {tile.pinned ? (
            <Act on={() => lay({ act: "unpin", instance: tile.number, one_fewer: false })}>unpin</Act>
          ) : (
            <Act
              on={() =>
                lay(
                  { act: "pin", instance: tile.number, one_fewer: false },
                  { act: "unpin", instance: tile.number, one_fewer: false },
                )
              }
            >
              pin
            </Act>
          )}
          <Act on={() => setAsked("drain")}>drain</Act>
          <Act on={() => setAsked("restart")}>restart</Act>
          <Act on={() => setAsked("kill")}>kill</Act>
          <Act on={() => setAsked("load")}>load its CPU</Act>
          <Act on={() => setAsked(asked === "template" ? null : "template")}>make a template of it</Act>
        </p>
      )}
      {tile && told && <InstanceLife group={group.name} number={tile.number} life={told} />}
      {asked === "count" && (
        <form
          className={its.asked}
          onSubmit={(event) => {
            event.preventDefault();
            if (count !== null) set(count);
          }}
        >
          Set the count to{" "}
          <TypedBlank
            label="Count"
            how={{ measure: "number", unit: "instances" }}
            first={String(group.wanted)}
            focus
            set={setCount}
          />{" "}
          of {group.minimum} to {group.maximum}
          <button type="submit" className="solid-button" disabled={count === null}>
            Set it
          </button>
          {atWork && (
            <>
              {" "}
              Policies stay at work and may undo it.{" "}
              <Act
                on={() => {
                  if (count === null) return;
                  hands.lay({ act: "pause", for: PAUSE });
                  set(count);
                }}
              >
                set it, and pause policies for 30 min
              </Act>
            </>
          )}
        </form>
      )}
      {(asked === "kill" || asked === "drain") && tile && (
        <Asking
          act={asked}
          on={() => one(asked, false)}
          or={{ act: `${asked}, and one fewer`, on: () => one(asked, true) }}
          leave={() => setAsked(null)}
        >
          {asked === "kill"
            ? `Instance ${tile.number} ends at once, with what it has under way${tile.sessions ? ` (${tile.sessions} sessions)` : ""}. Another will come.`
            : `Instance ${tile.number} takes no more work, ends when it is done, and another comes in its place.`}
        </Asking>
      )}
      {asked === "restart" && tile && (
        <Asking
          act="restart"
          on={() => lay({ act: "restart", instance: tile.number, one_fewer: false })}
          leave={() => setAsked(null)}
        >
          Instance {tile.number} loses what it has under way{tile.sessions ? ` (${tile.sessions} sessions)` : ""}, and
          serves again when it has booted, warmed up and passed its checks.
        </Asking>
      )}
      {asked === "template" && tile && <TemplateForm plan={plan} group={group.name} instance={tile.number} />}
      {asked === "work" && (
        <WorkPanel
          plan={plan}
          group={group.name}
          arrangement={group.newest}
          put={() => {
            setAsked(null);
            hands.putToWork(group.newest);
          }}
          leave={() => setAsked(null)}
        />
      )}
      {asked === "version" && <VersionForm life={life} lay={lay} />}
      {asked === "service" && <LoadForm life={life} lay={lay} />}
      {asked === "trouble" && <TroubleForm life={life} lay={lay} />}
      {asked === "load" && tile && (
        <form
          className={its.asked}
          onSubmit={(event) => {
            event.preventDefault();
            if (cpu !== null && length !== null) lay({ act: "load", instance: tile.number, cpu, for: length });
          }}
        >
          Load <TypedBlank label="CPU" how={{ measure: "share", unit: "%" }} first="90 %" set={setCpu} /> of the CPU of
          instance {tile.number} for{" "}
          <TypedBlank label="For" how={{ measure: "duration", unit: "min" }} first="10 min" set={setLength} />
          <button type="submit" className="solid-button" disabled={cpu === null || length === null}>
            Load it
          </button>
        </form>
      )}
      <DoneLine hands={hands} />
    </section>
  );
}

function Act({ on, children }: { on: () => void; children: React.ReactNode }) {
  return (
    <button type="button" className="plain-button" onClick={on}>
      {children}
    </button>
  );
}
