"""Policies that look ahead: whether they know anything, and whether it is worth knowing."""

from jostle.core.checks.finding import Finding, Mend
from jostle.core.decide.history import history_of
from jostle.core.engine.compile import Crew
from jostle.core.plan.layer import WEEK
from jostle.core.plan.plan import Plan
from jostle.core.plan.policy import LookaheadPolicy
from jostle.core.plan.quantity import say_duration, say_share
from jostle.core.rehearsal.forecast import foreseen, looking_ahead
from jostle.core.rehearsal.rehearsal import Rehearsal


def check_history(plan: Plan, crew: Crew) -> list[Finding]:
    """A history that is not there, or too short to know a week."""
    found = []
    for policy in crew.group.policies:
        if policy.paused or not isinstance(policy, LookaheadPolicy):
            continue
        path = f"policies.{policy.name}"
        if policy.history is None:
            text = "It has no history: it learns as it goes, and says nothing until it has seen the same time a week before."
            found.append(Finding(code="history-none", severity="warning", path=path, text=text))
            continue
        clock = history_of(plan.demands[policy.history], plan.start.timestamp(), plan.zone)
        known = 0.0 if clock is None else clock.seconds
        if known < WEEK:
            long = f"{say_duration(known)} of it lie" if known else "nothing of it lies"
            text = f"{policy.history}: {long} before the plan's start, less than a week: of the other days it knows nothing."
            found.append(Finding(code="history-short", severity="warning", path=f"{path}.history", text=text))
    return found


def check_foresight(rehearsal: Rehearsal) -> list[Finding]:
    """A forecast that is worse than to expect what came a day before."""
    found = []
    for number, policy in looking_ahead(rehearsal):
        off, yesterday = foreseen(rehearsal, number)
        if off is None or yesterday is None or off <= yesterday:
            continue
        text = f"What it expects is off by {say_share(off)} on average, what came a day before by {say_share(yesterday)}."
        mend = None if policy.advice else Mend(text="let it only say so", settings={f"policies.{policy.name}.advice": True})
        found.append(Finding(code="forecast-poor", severity="warning", path=f"policies.{policy.name}", text=text, mend=mend))
    return found
