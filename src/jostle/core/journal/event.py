"""What happened, in sentences with the figures that caused it."""

from collections.abc import Iterator
from typing import Literal

import numpy as np
from pydantic import BaseModel, ConfigDict

from jostle.core.demand.clock import Clock
from jostle.core.engine import code
from jostle.core.journal.sentence import say_count
from jostle.core.plan.metric import Metric
from jostle.core.plan.policy import HoldPolicy, Policy
from jostle.core.plan.quantity import say_duration
from jostle.core.rehearsal.rehearsal import Rehearsal

Kind = Literal["count", "serves", "gone", "short", "served again", "limit"]
_KINDS: dict[int, Kind] = {
    code.COUNT_CHANGED: "count",
    code.INSTANCE_SERVES: "serves",
    code.INSTANCE_GONE: "gone",
    code.SHORT_BEGINS: "short",
    code.SHORT_ENDS: "served again",
    code.LIMIT_REACHED: "limit",
}


class Event(BaseModel):
    """`time` is ISO 8601 in the plan's zone; `before` and `after` are counts where the event changes one."""

    model_config = ConfigDict(frozen=True)

    time: str
    kind: Kind
    text: str
    policy: str | None = None
    before: int | None = None
    after: int | None = None


def say_time(clock: Clock, seconds: float) -> str:
    """`Thu 10 Jul 11:45`, with seconds where they are not zero."""
    at = clock.at(clock.first + seconds)
    return f"{at:%a} {at.day} {at:%b %H:%M}" + (f":{at:%S}" if at.second else "")


def iso(clock: Clock, seconds: float) -> str:
    return clock.at(clock.first + seconds).isoformat()


def events(rehearsal: Rehearsal, kinds: frozenset[Kind] | None = None) -> Iterator[Event]:
    """The journal of a rehearsal in the order of time; all kinds unless some are named."""
    for row in rehearsal.result.events:
        kind = _KINDS[int(row["kind"])]
        if kinds is not None and kind not in kinds:
            continue
        who = int(row["who"])
        counted = kind in ("count", "limit")
        yield Event(
            time=iso(rehearsal.clock, float(row["time"])),
            kind=kind,
            text=_say_event(rehearsal, kind, row),
            policy=rehearsal.crew.group.policies[who].name if counted else None,
            before=int(row["before"]) if counted else None,
            after=int(row["after"]) if counted else None,
        )


def _say_event(rehearsal: Rehearsal, kind: Kind, row: np.void) -> str:
    who, before, after = int(row["who"]), int(row["before"]), int(row["after"])
    match kind:
        case "count":
            reason = _say_reason(rehearsal, int(row["evaluation"]), who)
            wanted = int(rehearsal.result.decisions[int(row["evaluation"])]["wanted"])
            limit = f", {wanted} wanted" if wanted != after else ""
            return f"{before} → {after}{limit}: {reason}"
        case "limit":
            reason = _say_reason(rehearsal, int(row["evaluation"]), who)
            return f"{before} wanted, the maximum is {after}: {reason}"
        case "serves":
            return f"instance {who + 1} serves; {say_count(after, 'instance')} serving"
        case "gone":
            return f"instance {who + 1} is gone; {say_count(after, 'instance')} left to pay"
        case "short":
            return "requests wait for want of capacity"
        case "served again":
            return "nothing waits any more"


def _say_reason(rehearsal: Rehearsal, evaluation: int, policy: int) -> str:
    value = float(rehearsal.result.state.views[evaluation, policy]["value"])
    return say_sight(rehearsal.crew.group.policies[policy], value)


def say_sight(policy: Policy, value: float) -> str:
    """What a policy saw, against its level: `average CPU 91 % over 3 min, above 66 %`."""
    metric = Metric(policy.metric)
    seen = f"{policy.fold} {metric.label} {metric.say(value)} over {say_duration(policy.window)}"
    if isinstance(policy, HoldPolicy):
        return f"{seen}, to be held at {metric.say(policy.level)}"
    past = value < policy.threshold if policy.side == "below" else value > policy.threshold
    how = "not " if not past else "just " if metric.say(value) == metric.say(policy.threshold) else ""
    return f"{seen}, {how}{policy.side} {metric.say(policy.threshold)}"
