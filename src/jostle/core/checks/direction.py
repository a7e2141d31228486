"""Which way policies move the count, and whether that is the way their metric asks for."""

from jostle.core.checks.finding import Finding, Mend
from jostle.core.engine.compile import Crew
from jostle.core.plan.calendar import Limits, Sleep
from jostle.core.plan.entry import Setting
from jostle.core.plan.policy import MetricPolicy, Policy, TriggerPolicy
from jostle.core.plan.word import listed


def active(crew: Crew) -> list[Policy]:
    """The policies that may act at all."""
    group = crew.group
    return [] if group.policies_paused or group.mode == "stay" else [policy for policy in group.policies if not policy.paused]


def check_sides(crew: Crew) -> list[Finding]:
    """A metric that grows with the load calls for adding above and removing below; one that falls, the reverse."""
    found = []
    for policy in crew.group.policies:
        if not isinstance(policy, TriggerPolicy) or policy.action == "set" or policy.fold == "count":
            continue
        right = "above" if (policy.action == "add") != policy.metric.falls else "below"
        if policy.side == right:
            continue
        path = f"policies.{policy.name}"
        adding = policy.action == "add"
        way = "lower" if adding != policy.metric.falls else "higher"
        text = (
            f"It would {policy.action} when {policy.metric_label} is {policy.side} {policy.say_level(policy.threshold)}; "
            f"each change drives {policy.metric_label} {way}, so that it "
            f"{'adds again, up to the maximum' if adding else 'removes again'}."
        )
        mend = Mend(text=f"{policy.action} when {right}", settings={f"{path}.side": right})
        found.append(Finding(code="wrong-side", severity="error", path=f"{path}.side", text=text, mend=mend))
    return found


def check_grow_and_shrink(crew: Crew) -> list[Finding]:
    """A group that only grows is paid for; one that only shrinks fails. The calendar may be the other way."""
    policies = active(crew)
    if not policies or any(isinstance(entry, Setting | Limits) for entry in crew.group.calendar):
        return []
    up = any(policy.adds for policy in policies)
    down = any(policy.removes for policy in policies) and crew.group.mode == "grow_and_shrink"
    if up == down:
        return []
    if up:
        text = f"Policies add, and nothing removes: once at {crew.group.maximum}, the count stays there."
        return [Finding(code="adds-only", severity="warning", path="policies", text=text)]
    text = f"Policies remove, and nothing adds: once at {crew.group.minimum}, the count stays there."
    return [Finding(code="removes-only", severity="error", path="policies", text=text)]


def check_zero(crew: Crew) -> list[Finding]:
    """Metrics that come from the instances say nothing when there is none."""
    group = crew.group
    adding = [policy for policy in active(crew) if policy.adds]
    ways_out = [policy for policy in adding if not isinstance(policy, MetricPolicy) or not policy.metric.from_instances]
    lifting = [entry for entry in group.calendar if not entry.paused and entry.lifts]
    again = any(entry.repeat for entry in lifting)
    falls = any(policy.removes for policy in active(crew)) and group.mode == "grow_and_shrink"
    falls = falls or any(not entry.paused and isinstance(entry, Sleep) for entry in group.calendar)
    if group.minimum > 0 or not adding or ways_out or (lifting and (again or not falls)):
        return []
    seen = listed(dict.fromkeys(policy.metric_label for policy in adding if isinstance(policy, MetricPolicy)))
    text = f"At 0 instances {seen} has no value, so nothing can ever add one again"
    text += f"; {lifting[0].name} lifts the count only once." if lifting else "."
    mend = Mend(text="minimum 1", settings={"minimum": 1})
    return [Finding(code="zero-trap", severity="error", path="minimum", text=text, mend=mend)]
