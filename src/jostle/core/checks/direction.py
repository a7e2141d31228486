"""Which way policies move the count, and whether that is the way their metric asks for."""

from jostle.core.checks.finding import Finding, Mend
from jostle.core.engine.compile import Crew
from jostle.core.plan.policy import HoldPolicy, Policy, TriggerPolicy


def adds(policy: Policy) -> bool:
    return isinstance(policy, HoldPolicy) or policy.action in ("add", "set")


def removes(policy: Policy) -> bool:
    return policy.may_remove if isinstance(policy, HoldPolicy) else policy.action in ("remove", "set")


def check_sides(crew: Crew) -> list[Finding]:
    """Every metric grows with the load, so adding belongs above a threshold and removing below one."""
    found = []
    for policy in crew.group.policies:
        if not isinstance(policy, TriggerPolicy) or policy.action == "set":
            continue
        right = "above" if policy.action == "add" else "below"
        if policy.side == right:
            continue
        path = f"policies.{policy.name}"
        drift = (
            "lower, so that it adds again, up to the maximum" if policy.action == "add" else "higher, so that it removes again"
        )
        found.append(
            Finding(
                code="wrong-side",
                severity="error",
                path=f"{path}.side",
                text=f"It would {policy.action} when {policy.metric.label} is {policy.side} "
                f"{policy.metric.say(policy.threshold)}; "
                f"each change drives {policy.metric.label} {drift}.",
                mend=Mend(text=f"{policy.action} when {right}", settings={f"{path}.side": right}),
            )
        )
    return found


def check_both_ways(crew: Crew) -> list[Finding]:
    """A group that only grows is paid for; one that only shrinks fails."""
    policies = [policy for policy in crew.group.policies if not policy.paused]
    if not policies or any(adds(p) for p in policies) == any(removes(p) for p in policies):
        return []
    if any(adds(policy) for policy in policies):
        text = f"Policies add, and nothing removes: once at {crew.group.maximum}, the count stays there."
        return [Finding(code="adds-only", severity="warning", path="policies", text=text)]
    text = f"Policies remove, and nothing adds: once at {crew.group.minimum}, the count stays there."
    return [Finding(code="removes-only", severity="error", path="policies", text=text)]


def check_zero(crew: Crew) -> list[Finding]:
    """Metrics that come from the instances say nothing when there is none."""
    group = crew.group
    adding = [policy for policy in group.policies if not policy.paused and adds(policy)]
    if group.minimum > 0 or not adding or any(not policy.metric.from_instances for policy in adding):
        return []
    seen = " and ".join(dict.fromkeys(policy.metric.label for policy in adding))
    return [
        Finding(
            code="zero-trap",
            severity="error",
            path="minimum",
            text=f"At 0 instances {seen} has no value, so nothing can ever add one again.",
            mend=Mend(text="minimum 1", settings={"minimum": 1}),
        )
    ]
