"""Minimum, maximum, base and zones against what can be reached and what is needed."""

from jostle.core.checks.direction import active
from jostle.core.checks.finding import Finding, Mend
from jostle.core.engine.compile import Crew
from jostle.core.plan.launch import NOWHERE
from jostle.core.plan.word import say_count


def check_reach(crew: Crew) -> list[Finding]:
    """A maximum that no step ever reaches, or that the quota does not allow."""
    group, quota = crew.group, crew.machine.quota
    found = []
    if quota is not None and group.maximum > quota:
        text = f"The quota of {crew.launch.machine} is {quota} over all groups, so {group.maximum} can never be had."
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


def check_zones(crew: Crew) -> list[Finding]:
    """A group in one zone, or with fewer instances than zones."""
    zones, minimum = crew.launch.zones, crew.group.minimum
    if zones == [NOWHERE]:
        return []
    if len(zones) == 1:
        text = f"All instances are in zone {zones[0]}: if it is lost, so is the group."
        return [Finding(code="single-zone", severity="warning", path="template", text=text)]
    if 0 < minimum < len(zones):
        text = f"At its minimum of {minimum} the group leaves {say_count(len(zones) - minimum, 'zone')} of {len(zones)} empty."
        mend = Mend(text=f"minimum {len(zones)}", settings={"minimum": len(zones)}) if len(zones) <= crew.group.maximum else None
        return [Finding(code="minimum-below-zones", severity="note", path="minimum", text=text, mend=mend)]
    return []
