import { useState } from "react";
import type { GroupLife } from "../../shared/api/client";
import { TypedBlank } from "../../shared/words/TypedBlank";
import its from "./live.module.css";
import type { Hand } from "./useHands";

interface Props {
  life: GroupLife;
  lay: (hand: Hand, back?: Hand) => void;
}

/** A load test on the group as it lives: clients that come one after the other, stay, and stop. */
export function LoadForm({ life, lay }: Props) {
  const [clients, setClients] = useState<number | null>(100);
  const [each, setEach] = useState<number | null>(1);
  const [ramp, setRamp] = useState<number | null>(300);
  const [length, setLength] = useState<number | null>(1200);
  const [waits, setWaits] = useState(false);
  const unread = [clients, each, ramp, length].includes(null);
  return (
    <form
      className={its.asked}
      aria-label="Load the service"
      onSubmit={(event) => {
        event.preventDefault();
        if (unread) return;
        const pace = waits ? { each: 1, waits, think: each ?? 1 } : { each: each ?? 0, waits, think: 1 };
        lay(
          { act: "load service", clients: clients ?? 0, ramp: ramp ?? 0, for: length ?? 0, ...pace },
          { act: "stop load" },
        );
      }}
    >
      Have <TypedBlank label="Clients" how={{ measure: "number" }} first="100" set={setClients} /> clients{" "}
      <select
        aria-label="How they send"
        value={String(waits)}
        onChange={(event) => setWaits(event.target.value === "true")}
      >
        <option value="false">send at a rate of their own,</option>
        <option value="true">wait for each answer, and think for</option>
      </select>{" "}
      <TypedBlank
        key={String(waits)}
        label={waits ? "Think" : "Each"}
        how={waits ? { measure: "duration", unit: "s" } : { measure: "rate", unit: "/s" }}
        first={waits ? "1 s" : "1/s"}
        set={setEach}
      />{" "}
      ({life.load}), started over{" "}
      <TypedBlank label="Ramp" how={{ measure: "duration", unit: "min" }} first="5 min" set={setRamp} />, for{" "}
      <TypedBlank label="Hold" how={{ measure: "duration", unit: "min" }} first="20 min" set={setLength} />
      <button type="submit" className="solid-button" disabled={unread}>
        Begin it
      </button>
    </form>
  );
}

/** Something that goes wrong on the stand-in, to see what becomes of it. */
export function TroubleForm({ life, lay }: Props) {
  const [kind, setKind] = useState<"zone_lost" | "no_capacity" | "slow_boots">("zone_lost");
  const [zone, setZone] = useState(life.zones[0] ?? "");
  const [length, setLength] = useState<number | null>(900);
  return (
    <form
      className={its.asked}
      aria-label="Have something go wrong"
      onSubmit={(event) => {
        event.preventDefault();
        if (length !== null)
          lay({ act: "trouble", kind, zone: kind === "slow_boots" ? null : zone, amount: 3, for: length });
      }}
    >
      <select
        aria-label="What goes wrong"
        value={kind}
        onChange={(event) => setKind(event.target.value as typeof kind)}
      >
        <option value="zone_lost">A zone is lost,</option>
        <option value="no_capacity">Launches are refused in</option>
        <option value="slow_boots">Boots take three times as long,</option>
      </select>{" "}
      {kind !== "slow_boots" && (
        <select aria-label="Zone" value={zone} onChange={(event) => setZone(event.target.value)}>
          {life.zones.map((one) => (
            <option key={one}>{one}</option>
          ))}
        </select>
      )}{" "}
      for <TypedBlank label="For" how={{ measure: "duration", unit: "min" }} first="15 min" set={setLength} />
      <button type="submit" className="solid-button" disabled={length === null}>
        Have it happen
      </button>
    </form>
  );
}

/** Another version of the template brought in from now on, in batches, a few first. */
export function VersionForm({ life, lay }: Props) {
  const [version, setVersion] = useState(life.versions[0] ?? 1);
  const [canary, setCanary] = useState(true);
  return (
    <form
      className={its.asked}
      aria-label="Bring in a version"
      onSubmit={(event) => {
        event.preventDefault();
        lay({ act: "roll out", version, canary });
      }}
    >
      Bring in{" "}
      <select aria-label="Version" value={version} onChange={(event) => setVersion(Number(event.target.value))}>
        {life.versions.map((one) => (
          <option key={one} value={one}>
            version {one}
          </option>
        ))}
      </select>{" "}
      a quarter at a time,{" "}
      <select aria-label="Canary" value={String(canary)} onChange={(event) => setCanary(event.target.value === "true")}>
        <option value="true">a canary of 10 % first, compared for 30 min,</option>
        <option value="false">without a canary,</option>
      </select>{" "}
      from now on
      <button type="submit" className="solid-button">
        Bring it in
      </button>
    </form>
  );
}

/** A text that a press copies. */
export function Copied({ text, label }: { text: string; label: string }) {
  const [done, setDone] = useState(false);
  return (
    <button
      type="button"
      className="plain-button"
      aria-label={`${label}, copy`}
      title={`copies: ssh admin@${text}`}
      onClick={async () => {
        await navigator.clipboard?.writeText(`ssh admin@${text}`);
        setDone(true);
      }}
    >
      {text}
      {done && " (copied)"}
    </button>
  );
}
