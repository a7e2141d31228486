"""Waits and windows against the times that instances and meters take."""

import math

from jostle.core.checks.direction import adds
from jostle.core.checks.finding import Finding, Mend
from jostle.core.engine.compile import Crew
from jostle.core.plan.policy import TriggerPolicy
from jostle.core.plan.quantity import say_duration


def check_waits(crew: Crew) -> list[Finding]:
    """A Trigger policy that acts again before its last addition shows in the metric adds twice for one load."""
    group, template = crew.group, crew.template
    needed = template.boot_time + template.warm_up + group.meters.period + group.meters.delay
    found = []
    for policy in group.policies:
        wait = max(policy.cooldown, group.cooldown)
        if policy.paused or not isinstance(policy, TriggerPolicy) or not adds(policy) or wait >= needed:
            continue
        path = f"policies.{policy.name}.cooldown"
        mended = 30.0 * math.ceil(needed / 30)
        found.append(
            Finding(
                code="wait-short",
                severity="warning",
                path=path,
                text=f"It acts again after {say_duration(wait)}, but a new instance shows in the metric after "
                f"{say_duration(needed)}: boot {say_duration(template.boot_time)}, warm-up {say_duration(template.warm_up)}, "
                f"meter {say_duration(group.meters.period + group.meters.delay)}. So it adds again for the same load.",
                mend=Mend(text=f"wait {say_duration(mended)}", settings={path: mended}),
            )
        )
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
