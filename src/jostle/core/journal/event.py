"""What happened, in sentences with the figures that caused it."""

from collections.abc import Iterator
from decimal import Decimal
from typing import Literal

import numpy as np
from pydantic import BaseModel, ConfigDict

from jostle.core.built.play import step_at, type_of
from jostle.core.decide.code import NOBODY, Cause, Outcome
from jostle.core.engine.code import EventKind, Fault, Refusal
from jostle.core.engine.compile import hands_in_order, incidents_met
from jostle.core.engine.market import UNIT
from jostle.core.journal.explanation import expected_by, order_text
from jostle.core.journal.leaving_line import reason_text
from jostle.core.journal.rollout_line import rollout_in, step_text
from jostle.core.plan.clock import Clock
from jostle.core.plan.hand import HandOnOne, HandRollout
from jostle.core.plan.quantity import say_duration, say_number, say_price, say_share
from jostle.core.plan.wall import say_moment, say_second
from jostle.core.plan.word import say_count
from jostle.core.rehearsal.name import named
from jostle.core.rehearsal.rehearsal import Rehearsal

Kind = Literal[
    "count", "serves", "gone", "short", "served again", "limit", "refused", "taken", "broke", "restarts", "replaced",
    "stopped", "starts", "cut off", "returned", "surplus", "incident", "incident over", "hand", "leaves", "spot", "no spot",
    "swap begins", "swapped", "rollout", "lost", "moves", "moved", "launched",
]  # fmt: skip
_KINDS: dict[int, Kind] = {
    EventKind.COUNT_CHANGED: "count",
    EventKind.INSTANCE_SERVES: "serves",
    EventKind.INSTANCE_GONE: "gone",
    EventKind.SHORT_BEGINS: "short",
    EventKind.SHORT_ENDS: "served again",
    EventKind.LIMIT_REACHED: "limit",
    EventKind.LAUNCH_REFUSED: "refused",
    EventKind.LAUNCH_TAKEN: "taken",
    EventKind.INSTANCE_BROKE: "broke",
    EventKind.INSTANCE_RESTARTS: "restarts",
    EventKind.INSTANCE_REPLACED: "replaced",
    EventKind.INSTANCE_STOPPED: "stopped",
    EventKind.INSTANCE_STARTS: "starts",
    EventKind.SESSIONS_CUT: "cut off",
    EventKind.JOBS_RETURNED: "returned",
    EventKind.SURPLUS_DROPPED: "surplus",
    EventKind.INCIDENT_BEGINS: "incident",
    EventKind.INCIDENT_ENDS: "incident over",
    EventKind.HAND_ACTS: "hand",
    EventKind.INSTANCE_LEAVES: "leaves",
    EventKind.SPOT_BOUGHT: "spot",
    EventKind.NO_SPOT: "no spot",
    EventKind.SWAP_BEGINS: "swap begins",
    EventKind.SWAP_ENDS: "swapped",
    EventKind.ROLLOUT: "rollout",
    EventKind.COPY_LOST: "lost",
    EventKind.COPY_MOVES: "moves",
    EventKind.COPY_MOVED: "moved",
    EventKind.INSTANCE_LAUNCHED: "launched",
}
TOLD_OF_ONE = frozenset(
    {
        EventKind.INSTANCE_SERVES,
        EventKind.INSTANCE_GONE,
        EventKind.INSTANCE_LEAVES,
        EventKind.INSTANCE_BROKE,
        EventKind.INSTANCE_RESTARTS,
        EventKind.INSTANCE_REPLACED,
        EventKind.INSTANCE_STOPPED,
        EventKind.INSTANCE_STARTS,
        EventKind.SWAP_BEGINS,
        EventKind.SWAP_ENDS,
        EventKind.SESSIONS_CUT,
        EventKind.JOBS_RETURNED,
        EventKind.COPY_LOST,
        EventKind.COPY_MOVES,
        EventKind.COPY_MOVED,
        EventKind.INSTANCE_LAUNCHED,
    }
)
FAULT_WORDS: dict[int, str] = {
    Fault.STOPPED: "its machine stopped",
    Fault.FROZEN: "its machine froze",
    Fault.HUNG: "its service hangs",
}


class Event(BaseModel):
    """`time` is ISO 8601 in the plan's zone; `before` and `after` are counts where the event changes one."""

    model_config = ConfigDict(frozen=True)

    time: str
    kind: Kind
    text: str
    policy: str | None = None
    entry: str | None = None
    before: int | None = None
    after: int | None = None


def say_time(clock: Clock, seconds: float) -> str:
    """`Thu 10 Jul 11:45`, with seconds where they are not zero."""
    at = clock.at(clock.first + seconds)
    return say_second(at) if at.second else say_moment(at)


def iso(clock: Clock, seconds: float) -> str:
    return clock.at(clock.first + seconds).isoformat()


def events(
    rehearsal: Rehearsal,
    kinds: frozenset[Kind] | None = None,
    who: int | None = None,
    since: float | None = None,
    from_row: int = 0,
    until: float | None = None,
    most: int | None = None,
) -> Iterator[Event]:
    """The journal of a rehearsal in the order of time; all kinds unless some are named, all instances unless one is, counted
    from 0; from its beginning unless a time (s from the start) or the number of a row is given, and before `until`; only the last
    of them where there are more than `most`."""
    group = rehearsal.crew.group
    rows = rehearsal.result.events[from_row:]
    if who is not None:
        rows = rows[(rows["who"] == who) & np.isin(rows["kind"], list(TOLD_OF_ONE))]
    if since is not None:
        rows = rows[np.searchsorted(rows["time"], since) :]
    if until is not None:
        rows = rows[: np.searchsorted(rows["time"], until)]
    if kinds is not None:
        rows = rows[np.isin(rows["kind"], [number for number, kind in _KINDS.items() if kind in kinds])]
    if most is not None:
        rows = rows[max(0, len(rows) - most) :]
    for row in rows:
        kind = _KINDS[int(row["kind"])]
        by, cause = int(row["who"]), int(row["cause"])
        counted = kind in ("count", "limit")
        by_calendar = (counted or kind == "rollout") and by >= 0 and cause in (Cause.CALENDAR, Cause.SLEEP)
        yield Event(
            time=iso(rehearsal.clock, float(row["time"])),
            kind=kind,
            text=_say_event(rehearsal, kind, row),
            policy=group.policies[by].name if counted and by >= 0 and cause == Cause.POLICY else None,
            entry=group.calendar[by].name if by_calendar and by < len(group.calendar) else None,
            before=int(row["before"]) if counted else None,
            after=int(row["after"]) if counted else None,
        )


def _say_event(rehearsal: Rehearsal, kind: Kind, row: np.void) -> str:
    who, before, after = int(row["who"]), int(row["before"]), int(row["after"])
    work = rehearsal.crew.group.work
    match kind:
        case "count":
            return f"{before} → {after}{_say_cause(rehearsal, row)}"
        case "limit":
            evaluation = int(row["evaluation"])
            by_quota = int(rehearsal.result.decisions["limit"][evaluation]) == Outcome.AT_QUOTA
            reason = "" if who == NOBODY else f": {_say_reason(rehearsal, evaluation, who)}"
            return f"{before} wanted, the {'quota leaves' if by_quota else 'maximum is'} {after}{reason}"
        case "serves":
            return f"{named(rehearsal, who)} serves; {say_count(after, 'instance')} serving"
        case "leaves":
            notice = rehearsal.crew.group.notice
            return f"{named(rehearsal, who)} leaves: {reason_text(before)}" + (f"; told: “{notice.text}”" if notice else "")
        case "spot":
            return _say_spot(rehearsal, row)
        case "no spot":
            buying = rehearsal.crew.group.buying
            span = "" if buying is None else f"; launches are on demand for {say_duration(buying.look_again)}"
            return f"no spot under the caps for {named(rehearsal, who)}{span}"
        case "swap begins":
            return _say_swap(rehearsal, row)
        case "swapped":
            return f"{named(rehearsal, who)} serves in the place of {named(rehearsal, before)}, which leaves"
        case "gone":
            return f"{named(rehearsal, who)} is gone; {say_count(after, 'instance')} still paid for"
        case "short":
            return work.short
        case "served again":
            return work.short_over
        case "refused":
            if (lacks := lacking(rehearsal, who, after)) is not None:
                return f"{say_count(before, 'copy')} {'waits' if before == 1 else 'wait'} for a place: {lacks}"
            why = {Refusal.QUOTA: f"the quota is {after}", Refusal.MARKET: "the market has none under the caps"}.get(
                Refusal(who), "no zone has capacity"
            )
            return f"{_launches(before)} refused, {why}; tried again at every evaluation"
        case "taken" if rehearsal.crew.group.host is not None:
            return f"a place at last for {'the copy' if before == 1 else f'{before} copies'} that waited for one"
        case "taken":
            return f"{_launches(before)} that had been refused taken at last"
        case "broke":
            return f"{named(rehearsal, who)} {fault_text(rehearsal, before)}"
        case "restarts":
            return f"{named(rehearsal, who)} was found broken and is restarted, for the {_nth(before)} time"
        case "replaced":
            return f"{named(rehearsal, who)} was found broken and is replaced"
        case "launched":
            return f"{named(rehearsal, who)} is launched in the place of one that is gone"
        case "stopped":
            return f"{named(rehearsal, who)} is stopped; {say_count(after, 'instance')} stopped"
        case "starts":
            return f"{named(rehearsal, who)} is started again; {say_count(after, 'instance')} still stopped"
        case "cut off":
            return f"{say_count(before, 'session')} cut off on {named(rehearsal, who)}"
        case "returned":
            return f"about {say_count(max(1, before), 'job')} given back by {named(rehearsal, who)}"
        case "lost":
            return f"{named(rehearsal, who)} is lost with {host_text(rehearsal, before)}"
        case "moves":
            other = named(rehearsal, before)
            return f"{host_text(rehearsal, after)} leaves: {named(rehearsal, who)} is to start elsewhere in the place of {other}"
        case "moved":
            left = f"{named(rehearsal, before)}, which leaves {host_text(rehearsal, after)}"
            return f"{named(rehearsal, who)} serves in the place of {left}"
        case "rollout":
            return rollout_text(rehearsal, row)
        case "surplus":
            return f"enough serve: {say_count(after, 'instance')} of the {before} launched beyond need dropped"
        case "hand":
            hand = hands_in_order(rehearsal.crew.group.hands, rehearsal.clock)[who]
            if isinstance(hand, HandRollout):
                return f"a hand {hand.text()}" + ("" if before else ", but none is under way that could be")
            if not isinstance(hand, HandOnOne):
                return f"a hand {hand.text()}"
            which = f" ({named(rehearsal, before)})" if before >= 0 else ", but there is no such instance"
            return f"a hand {hand.text()}{which}"
        case "incident" | "incident over":
            incident = incidents_met(rehearsal.crew)[who].text()
            return incident if kind == "incident" else f"over: {incident}"


def fault_text(rehearsal: Rehearsal, fault: int) -> str:
    """`breaks: its machine froze`; where no check of the load balancer gets through, what shuts it out."""
    return f"fails its checks: {rehearsal.crew.shut}" if rehearsal.crew.shut else f"breaks: {FAULT_WORDS[fault]}"


def host_text(rehearsal: Rehearsal, host: int) -> str:
    """`instance 3 of deck`, by the name that it has where it has one."""
    return f"{named(rehearsal.host_of_guest, host)} of {rehearsal.crew.group.host}"


def lacking(rehearsal: Rehearsal, reason: int, most: int) -> str | None:
    """`0.75 GiB wanted, the largest free is 0.5`: what no host has for a copy, `most` being in MiB or thousandths of a vCPU; None
    where a launch was refused for something else."""
    place = rehearsal.crew.group.place
    if place is None:
        return None
    if reason == Refusal.MEMORY:
        return f"{say_number(place.memory_gib)} GiB wanted, the largest free is {say_number(most / 1024)}"
    if reason == Refusal.VCPUS:
        more = "" if place.vcpus == 1 else "s"
        return f"{say_number(place.vcpus)} vCPU{more} wanted, the largest free beside enough memory is {say_number(most / 1000)}"
    return None


def rollout_text(rehearsal: Rehearsal, row: np.void) -> str:
    """What happened with a rollout, from its event."""
    decision = rehearsal.result.decisions[int(row["evaluation"])]
    if (entry := rollout_in(rehearsal.crew.group, int(row["who"]))) is None:
        return f"a step of the rollout of version {int(decision['version'])}, which the calendar does not have any more"
    return step_text(entry, decision, rehearsal.crew.group.work.done)


def _say_spot(rehearsal: Rehearsal, row: np.void) -> str:
    """Why an instance was bought as spot, on which machine and where, against what else there was."""
    setup, crew = rehearsal.result.setup, rehearsal.crew
    who, zone, units = int(row["who"]), int(row["before"]), int(row["after"])
    step = step_at(float(row["time"]), setup.market.units.shape[2])
    prices, chances = setup.market.units[:, :, step], setup.market.chances[:, :, step]
    there, under = setup.market.offered[:, :, step].copy(), prices <= setup.kinds["cap_units"][1::2, None]
    own = type_of(int(rehearsal.result.instances["kind"][who])) // len(crew.types)
    there[np.arange(len(there)) // len(crew.types) != own] = False
    dear = int((there & ~under).sum())
    risky = int((there & under & (chances > setup.of("cap_chance"))).sum())
    left = [
        f"{number} {'was' if number == 1 else 'were'} {said}"
        for number, said in ((dear, "too dear"), (risky, "too risky"))
        if number
    ]
    price = say_price(Decimal(units) / UNIT, rehearsal.plan.currency)
    where = f"{_machine_of(rehearsal, who)}in {crew.launch.zones[zone]}"
    if (many := int(there.sum())) > 1:
        where += f", of {many} {'zones' if len(crew.types) == 1 else 'machines and zones'}"
    return ", ".join(
        [f"{named(rehearsal, who)} is spot at {price} an hour {where}", *_second(rehearsal, row, prices, there), *left]
    )


def _second(rehearsal: Rehearsal, row: np.void, prices: np.ndarray, there: np.ndarray) -> list[str]:
    """What would have been next by what it asks for what it does, where there are several machines."""
    setup, crew = rehearsal.result.setup, rehearsal.crew
    if len(crew.types) == 1:
        return []
    asks = np.where(there, prices / setup.kinds["capacity"][1::2, None], np.inf)
    asks[type_of(int(rehearsal.result.instances["kind"][int(row["who"])])), int(row["before"])] = np.inf
    t, z = np.unravel_index(int(np.argmin(asks)), asks.shape)
    if not np.isfinite(asks[t, z]):
        return []
    price = say_price(Decimal(int(prices[t, z])) / UNIT, rehearsal.plan.currency)
    return [f"the cheapest of the others {crew.every_type[t].launch.machine} in {crew.launch.zones[z]} at {price}"]


def _machine_of(rehearsal: Rehearsal, who: int) -> str:
    """The machine of an instance, where a group has several."""
    crew = rehearsal.crew
    return f"on {crew.machine_of(int(rehearsal.result.instances['kind'][who]))} " if len(crew.types) > 1 else ""


def _say_swap(rehearsal: Rehearsal, row: np.void) -> str:
    """What comes in whose place, and what that saves."""
    setup, who, saved = rehearsal.result.setup, int(row["who"]), int(row["after"])
    one = rehearsal.result.instances[who]
    zone, step = int(one["zone"]), step_at(float(row["time"]), setup.market.units.shape[2])
    units = int(setup.market.units[type_of(int(one["kind"])), zone, step])
    new, old = (say_price(Decimal(one) / UNIT, rehearsal.plan.currency) for one in (units, units + saved))
    where = f"{_machine_of(rehearsal, who)}in {rehearsal.crew.launch.zones[zone]}"
    less = f", {say_share(round(saved / (units + saved), 2))} less" if saved > 0 else ""
    before = named(rehearsal, int(row["before"]))
    return f"{named(rehearsal, who)} comes as spot {where} at {new} an hour in the place of {before} at {old}{less}"


def _launches(number: int) -> str:
    return f"{number} launch{'' if number == 1 else 'es'}"


def _nth(number: int) -> str:
    return {1: "first", 2: "second", 3: "third"}.get(number, f"{number}th")


def _say_cause(rehearsal: Rehearsal, row: np.void) -> str:
    """Why the count changed, from its colon on."""
    group, who, cause = rehearsal.crew.group, int(row["who"]), int(row["cause"])
    before, after = int(row["before"]), int(row["after"])
    if cause == Cause.HAND:
        return ": by hand"
    decision = rehearsal.result.decisions[int(row["evaluation"])]
    if cause == Cause.POLICY:
        wanted = int(decision["wanted"])
        limit = f", {wanted} wanted" if wanted != after else ""
        return f"{limit}: {_say_reason(rehearsal, int(row['evaluation']), who)}"
    if cause == Cause.ORDER:
        return f": {order_text(rehearsal.crew.group.order, rehearsal.clock, float(row['time']))}"
    if cause == Cause.SLEEP:
        return f": {group.calendar[who].name}, the group falls asleep" if after == 0 and who >= 0 else ": the group wakes"
    entry = group.calendar[who]
    rest = f", {abs(int(decision['scheduled']) - after)} held back" if int(decision["scheduled"]) != after else ""
    return f": {entry.name}, {entry.in_short()}{rest}" if before != after else f": {entry.name}"


def _say_reason(rehearsal: Rehearsal, evaluation: int, policy: int) -> str:
    view, time = rehearsal.result.views[evaluation, policy], float(rehearsal.result.decisions["time"][evaluation])
    expected = expected_by(view, time, rehearsal.clock)
    return rehearsal.crew.group.policies[policy].sight(float(view["value"]), rehearsal.crew.group.work, expected)
