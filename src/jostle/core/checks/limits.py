"""Minimum, maximum, what is owned and zones against what can be reached and what is needed."""

from jostle.core.checks.direction import active
from jostle.core.checks.finding import Finding, Mend
from jostle.core.engine.compile import Crew
from jostle.core.plan.launch import NOWHERE, launching
from jostle.core.plan.plan import Plan
from jostle.core.plan.word import listed, say_count


def check_reach(crew: Crew) -> list[Finding]:
    """A maximum that no step ever reaches, or that the quota does not allow."""
    group, quota = crew.group, crew.quota
    found = []
    if quota is not None and group.maximum > quota:
        machines = listed(one.launch.machine for one in crew.types)
        more = "" if group.unit == "instance" else f" {group.unit}s"
        text = f"The quota of {machines} is {quota}{more} over all groups, so {group.maximum} can never be had."
        mend = Mend(text=f"maximum {quota}", settings={"maximum": quota}) if quota >= max(1, group.minimum) else None
        found.append(Finding(code="over-quota", severity="warning", path="maximum", text=text, mend=mend))
    policies = active(crew)
    counts = [group.first_count, *(entry.lifts for entry in group.calendar)]
    for policy in policies:
        if policy.highest is None:
            return found
        counts.append(policy.highest)
    if policies and max(counts) < group.maximum:
        text = f"Nothing ever asks for more than {max(counts)}, so the maximum of {group.maximum} is never reached."
        found.append(Finding(code="maximum-unreached", severity="note", path="maximum", text=text))
    return found


def check_quotas(plan: Plan, crew: Crew) -> list[Finding]:
    """Maxima of groups that fit the quota of their machine one by one, and not together."""
    quota, machine = crew.machine.quota, crew.launch.machine
    if crew.group.host is not None or quota is None or crew.group.maximum > quota or len(crew.types) > 1:
        return []
    sharing = {name: plan.groups[name].maximum for name in launching(plan, machine)}
    if len(sharing) < 2 or sum(sharing.values()) <= quota:
        return []
    parts = listed(f"{name} {maximum}" for name, maximum in sharing.items())
    text = f"The quota of {machine} is {quota} over all groups, and their maxima come to {sum(sharing.values())}: {parts}."
    return [Finding(code="quota-together", severity="warning", path="maximum", text=text)]


def check_criteria(crew: Crew) -> list[Finding]:
    """Who leaves by the time that is paid for, on a machine that is paid for by the second."""
    criteria = crew.group.leaving.criteria
    if "least_paid_left" not in criteria or crew.machine.billed_by == "hour":
        return []
    text = f"A {crew.launch.machine} is billed by the second: none has more paid time left than another, so this decides nothing."
    left = [one for one in criteria if one != "least_paid_left"] or ["oldest"]
    mend = Mend(text=f"by {left[0].replace('_', ' ')} instead", settings={"leaving.criteria": left})
    return [Finding(code="paid-time-idle", severity="warning", path="leaving.criteria", text=text, mend=mend)]


def check_zones(crew: Crew) -> list[Finding]:
    """A group in one zone, or with fewer instances than zones."""
    zones, minimum = crew.launch.zones, crew.group.minimum
    if zones == [NOWHERE]:
        return []
    if len(zones) == 1:
        text = f"All instances are in zone {zones[0]}: if it is lost, so is the group."
        return [Finding(code="single-zone", severity="warning", path="template", text=text)]
    most = max(crew.weights.values(), default=1)
    there = -(-minimum // most)
    if 0 < there < len(zones):
        text = f"At its minimum of {minimum} the group leaves {say_count(len(zones) - there, 'zone')} of {len(zones)} empty."
        enough = len(zones) * most
        mend = Mend(text=f"minimum {enough}", settings={"minimum": enough}) if enough <= crew.group.maximum else None
        return [Finding(code="minimum-below-zones", severity="note", path="minimum", text=text, mend=mend)]
    return []
