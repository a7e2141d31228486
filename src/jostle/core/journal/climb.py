"""How fast a policy that adds by steps brings a group up: the counts, one after the other, and the time to the maximum."""

import math

from jostle.core.built.play import step_of
from jostle.core.engine.compile import Crew
from jostle.core.plan.policy import TriggerPolicy
from jostle.core.plan.quantity import say_duration

# Counts that are named
NAMED = 6


def climb(crew: Crew, policy: TriggerPolicy) -> str | None:
    """What comes of it where it fires again and again from the minimum, first with its least step and then with its largest;
    None for one that does not add."""
    group = crew.group
    if policy.action != "add" or group.minimum >= group.maximum:
        return None
    amounts = [amount for amount in (policy.amount, *(band.amount for band in policy.bands)) if amount > 0]
    told = [_climbed(crew, policy, min(amounts))]
    if max(amounts) > min(amounts):
        told.append(f"with its largest step {_climbed(crew, policy, max(amounts))}")
    return f"Fired again and again from {group.minimum}: {'; '.join(told)}."


def _climbed(crew: Crew, policy: TriggerPolicy, amount: int) -> str:
    group = crew.group
    counts = [group.minimum]
    while counts[-1] < group.maximum:
        counts.append(min(group.maximum, counts[-1] + step_of(counts[-1], amount, policy.of == "percent")))
    said = [str(count) for count in counts[1:]]
    if len(said) > NAMED:
        said = [*said[: NAMED - 1], "…", said[-1]]
    every = group.evaluate_every
    apart = max(every, math.ceil(max(policy.cooldown, group.cooldown) / every) * every)
    length = say_duration((len(counts) - 2) * apart)
    return f"{', '.join(said)}, the maximum, {f'{length} after the first' if len(counts) > 2 else 'at once'}"
