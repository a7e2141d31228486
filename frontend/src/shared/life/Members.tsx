import { useState } from "react";
import { useAddress } from "../acts/address";
import type { Behind } from "../api/client";
import its from "./members.module.css";

type Member = Behind["members"][number];

const SHUT = "its check is shut out";

interface Props {
  behind: Behind;
  /** Whether there is room for half as much. */
  narrow?: boolean;
}

/** What stands behind a load balancer: one bar is all that comes in, each part what a member is given; dots are its checks. */
export function Members({ behind, narrow = false }: Props) {
  const address = useAddress();
  const chosen = address.number("instance");
  const [touched, touch] = useState<number | null>(null);
  const shown = behind.members.find((one) => one.number === (touched ?? chosen));
  const crowd = behind.members.length * (narrow ? 2 : 1);
  const few = crowd <= FEW;
  return (
    <section className={its.members} aria-label="Behind the load balancer">
      <p>
        Its load balancer {behind.door}: <b className={its.healthy}>{behind.healthy}</b>
        {behind.others && `, ${behind.others}`}; {behind.comes}, {behind.refused}.{" "}
        {behind.wrong && (
          <b className="ink-add">
            {behind.wrong}: {SHUT}.
          </b>
        )}
      </p>
      <ul className={its.bar}>
        {behind.members.map((one) => (
          <li key={one.number} style={{ flexGrow: Math.max(one.share, LEAST) }} data-standing={one.standing}>
            <button
              type="button"
              aria-label={told(one)}
              aria-pressed={one.number === chosen}
              onClick={() => address.choose({ instance: one.number === chosen ? null : one.number })}
              onPointerEnter={() => touch(one.number)}
              onPointerLeave={() => touch(null)}
              onFocus={() => touch(one.number)}
              onBlur={() => touch(null)}
            >
              {one.share > 0 ? onPart(one.share, crowd) : WORDS[one.standing]}
            </button>
            {few && (
              <>
                <b>{short(one.name)}</b> <Checks member={one} />
                <small>{one.said || one.answers || one.at_work}</small>
              </>
            )}
          </li>
        ))}
      </ul>
      <p className={its.told} aria-live="polite">
        {shown ? told(shown) : "Each part is what a member is given of what comes in; touch one."}
      </p>
    </section>
  );
}

const WORDS: Record<Member["standing"], string> = { serves: "", joins: "joins", drains: "drains", fails: "fails" };
/** Up to so many members each has its words beneath, a part its figure with and without its unit; how thin one may be. */
const FEW = 8;
const SOME = 12;
const MANY = 24;
const LEAST = 0.03;

function onPart(share: number, crowd: number) {
  const text = percent(share);
  return crowd <= SOME ? text : crowd <= MANY ? text.slice(0, -2) : "";
}

function Checks({ member }: { member: Member }) {
  return (
    <span className={its.checks} aria-hidden>
      {Array.from({ length: Math.min(member.checks, 5) }, (_, number) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: dots are alike
        <i key={number} data-passed={number < member.passed} />
      ))}
    </span>
  );
}

function percent(share: number) {
  return `${(100 * share).toFixed(share < 0.1 ? 1 : 0)} %`;
}

/** Of a name that says the group too, what tells it from the others. */
function short(name: string) {
  return name.replace(/^instance /, "");
}

function told(one: Member) {
  const given = one.share > 0 ? `${percent(one.share)} of what comes in` : "is given nothing";
  const checks = `${one.passed} of ${one.checks} ${one.checks === 1 ? "check" : "checks"} passed`;
  return [`${one.name}, ${one.zone}: ${given}`, checks, one.at_work, one.answers, one.said].filter(Boolean).join(", ");
}
