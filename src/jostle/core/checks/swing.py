"""Swings: an addition that its own effect undoes, or a removal that calls for its own return.

Like a door that bangs: pushed open it falls shut, and shut it springs open. Worked out for every count in range.
"""

import math
from collections.abc import Iterator
from itertools import product

from jostle.core.checks.finding import Finding, Mend
from jostle.core.engine.compile import Crew
from jostle.core.plan.metric import Metric
from jostle.core.plan.policy import TriggerPolicy
from jostle.core.plan.word import say_count


def after(metric: Metric, value: float, before: int, count: int, idle_cpu: float) -> float:
    """A proportional metric at another count under the same load; the idle share of CPU does not spread."""
    idle = idle_cpu if metric == Metric.CPU else 0.0
    return (value - idle) * before / count + idle


def check_swings(crew: Crew) -> list[Finding]:
    """Pairs of Trigger policies on one proportional metric, one adding above, one removing below."""
    triggers = [
        p
        for p in crew.group.policies
        if isinstance(p, TriggerPolicy) and not p.paused and p.metric.proportional and p.fold not in ("sum", "count")
    ]
    adders = [p for p in triggers if p.action == "add" and p.side == "above"]
    removers = [p for p in triggers if p.action == "remove" and p.side == "below"]
    found: list[Finding] = []
    for adder, remover in product(adders, removers):
        if (adder.metric, adder.zone) == (remover.metric, remover.zone):
            found += _pair(crew, adder, remover)
    return found


def _steps(policy: TriggerPolicy) -> list[tuple[float, TriggerPolicy]]:
    """Each level of a policy, its threshold and its bands, with the policy as it acts beyond it."""
    return [(policy.threshold, policy)] + [(b.beyond, policy.model_copy(update={"amount": b.amount})) for b in policy.bands]


def _pair(crew: Crew, adder: TriggerPolicy, remover: TriggerPolicy) -> Iterator[Finding]:
    metric, path = adder.metric, f"policies.{remover.name}.threshold"
    say = metric.say
    if remover.threshold >= adder.threshold:
        yield Finding(
            code="thresholds-cross",
            severity="error",
            path=path,
            text=f"It removes below {say(remover.threshold)}, but {adder.name} adds above {say(adder.threshold)}: "
            f"between them both act, and the count never rests.",
            mend=_lower(metric, path, adder.threshold / 2),
        )
        return
    group, idle = crew.group, crew.group.work.idle_cpu
    down = []
    for level, step in _steps(adder):
        for count in range(max(1, group.minimum), group.maximum):
            grown = min(group.maximum, count + step.step(count))
            down.append((after(metric, level, count, grown, idle), level, count, grown))
    if down and min(down)[0] < remover.threshold:
        value, level, count, grown = min(down)
        hit = _counts([n for v, _, n, _ in down if v < remover.threshold])
        yield Finding(
            code="swing",
            severity="warning",
            path=path,
            text=f"At {say_count(count, group.unit)}, adding {grown - count} lowers {metric.label} "
            f"from {say(level)} to {say(value)}, which is below {say(remover.threshold)}: "
            f"the removal undoes it. So at {hit}.",
            mend=_lower(metric, path, value),
        )
    up = []
    for level, step in _steps(remover):
        for count in range(max(1, group.minimum) + 1, group.maximum + 1):
            left = max(group.minimum, count - step.step(count), 1)
            up.append((after(metric, level, count, left, idle), level, count, left))
    if up and max(up)[0] > adder.threshold:
        value, level, count, left = max(up)
        hit = _counts([n for v, _, n, _ in up if v > adder.threshold])
        yield Finding(
            code="swing",
            severity="warning",
            path=path,
            text=f"At {say_count(count, 'instance')}, removing {count - left} lifts {metric.label} "
            f"from {say(level)} to {say(value)}, which is above {say(adder.threshold)}: "
            f"it is added again. So at {hit}.",
            mend=_lower(metric, path, after(metric, adder.threshold, left, count, idle)),
        )


def _lower(metric: Metric, path: str, below: float) -> Mend | None:
    """Remove below the next round level under `below`: whole percents, else three digits; none where nothing is left."""
    unit = 0.01 if metric == Metric.CPU else 10 ** (math.floor(math.log10(below)) - 1) if below > 0 else 1.0
    level = round((math.ceil(below / unit - 1e-9) - 1) * unit, 9)
    return Mend(text=f"remove below {metric.say(level)}", settings={path: level}) if level > 0 else None


def _counts(counts: list[int]) -> str:
    low, high = min(counts), max(counts)
    return f"{low}" if low == high else f"{low} to {high}"
