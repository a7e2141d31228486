"""Waits, windows, drains and grace against the times that instances, meters and work take."""

import math

from jostle.core.checks.finding import Finding, Mend
from jostle.core.engine.compile import Crew
from jostle.core.plan.policy import TriggerPolicy
from jostle.core.plan.quantity import say_duration, say_share
from jostle.core.plan.work import Jobs, Requests, Sessions


def check_waits(crew: Crew) -> list[Finding]:
    """A Trigger policy that acts again before its last addition shows in the metric adds twice for one load."""
    group = crew.group
    meter = group.meters.period + group.meters.delay
    needed = crew.ready_after + meter
    found = []
    for policy in group.policies:
        wait = max(policy.cooldown, group.cooldown)
        if policy.paused or not isinstance(policy, TriggerPolicy) or not policy.adds or wait >= needed:
            continue
        path = f"policies.{policy.name}.cooldown"
        mended = 30.0 * math.ceil(needed / 30)
        text = (
            f"It acts again after {say_duration(wait)}, but a new instance shows in the metric after "
            f"{say_duration(needed)}: boot {say_duration(crew.launch.boot_time)}, "
            f"warm-up {say_duration(crew.ready_after - crew.launch.boot_time)}, "
            f"meter {say_duration(meter)}. So it adds again for the same load."
        )
        mend = Mend(text=f"wait {say_duration(mended)}", settings={path: mended})
        found.append(Finding(code="wait-short", severity="warning", path=path, text=text, mend=mend))
    return found


def check_windows(crew: Crew) -> list[Finding]:
    period = crew.group.meters.period
    found = []
    for policy in crew.group.policies:
        if policy.window < period:
            path = f"policies.{policy.name}.window"
            text = f"A window of {say_duration(policy.window)} is shorter than the {say_duration(period)} between samples."
            mend = Mend(text=f"window {say_duration(period)}", settings={path: period})
            found.append(Finding(code="window-short", severity="warning", path=path, text=text, mend=mend))
    return found


def check_drain(crew: Crew) -> list[Finding]:
    """A drain that ends before the work does."""
    group = crew.group
    match group.work:
        case Sessions(length=length) if group.drain < length:
            left = math.exp(-group.drain / length)
            text = (
                f"A session lasts {say_duration(length)} on average, and the drain {say_duration(group.drain)}: "
                f"{say_share(left)} of the sessions on a leaving instance are cut off."
            )
            mended = 60.0 * math.ceil(3 * length / 60)
        case Jobs(job_seconds=seconds) if group.drain < seconds / crew.machine.speed:
            length = seconds / crew.machine.speed
            left = 1 - group.drain / length
            text = (
                f"A job takes {say_duration(length)}, and the drain {say_duration(group.drain)}: "
                f"{say_share(left)} of the jobs under way on a leaving worker are given back and begun again."
            )
            mended = 10.0 * math.ceil(length / 10)
        case _:
            return []
    mend = Mend(text=f"drain {say_duration(mended)}", settings={"drain": mended})
    return [Finding(code="drain-short", severity="warning", path="drain", text=text, mend=mend)]


def check_grace(crew: Crew) -> list[Finding]:
    """Checks that begin to count before an instance can pass them."""
    health = crew.group.health
    needed = {"machine": 0.0, "heartbeat": crew.launch.boot_time, "load_balancer": crew.ready_after}[health.basis]
    patience = health.grace + health.notice
    if needed <= patience:
        return []
    text = (
        f"A new instance answers the check after {say_duration(needed)}, and is found broken after "
        f"{say_duration(patience)}: each is ended before it serves."
    )
    mended = 60.0 * math.ceil(1.5 * needed / 60)
    mend = Mend(text=f"grace {say_duration(mended)}", settings={"health.grace": mended})
    return [Finding(code="grace-short", severity="error", path="health.grace", text=text, mend=mend)]


def check_sticky(crew: Crew) -> list[Finding]:
    """Clients that stay where they are leave a new instance idle for longer than a policy waits."""
    group = crew.group
    if not isinstance(group.work, Requests) or not group.sticky:
        return []
    half = group.sticky * math.log(2)
    found = []
    for policy in group.policies:
        wait = max(policy.cooldown, group.cooldown) - crew.ready_after
        if policy.paused or not policy.adds or wait >= half:
            continue
        path = f"policies.{policy.name}.cooldown"
        text = (
            f"Clients stay with their instance for {say_duration(group.sticky)}: a new one has half its share only "
            f"{say_duration(half)} after it serves, and this acts again before that."
        )
        mended = 30.0 * math.ceil((half + crew.ready_after) / 30)
        mend = Mend(text=f"wait {say_duration(mended)}", settings={path: mended})
        found.append(Finding(code="sticky-slow", severity="warning", path=path, text=text, mend=mend))
    return found
