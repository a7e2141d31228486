"""What one policy asks for."""

import math

import numpy as np

from jostle.core.compiled import hot, leaf
from jostle.core.decide.code import Action, PolicyKind, Stance
from jostle.core.decide.memory import Memory
from jostle.core.decide.rules import Rules
from jostle.core.decide.sight import Sight, fold_window, instances_metered


@leaf
def hold_ask(value: float, metered: float, level: float, tolerance: float, desired: int) -> int:
    """Count at which a proportional metric would stand at `level`; the desired count while within the tolerance.

    `metered` is the number of instances behind the value, so that value x metered is the whole load.
    """
    if abs(value - level) <= tolerance * level:
        return desired
    return int(math.ceil(value * metered / level - 1e-9))


@leaf
def banded(value: float, below: bool, amount: int, bands: np.ndarray, number: int) -> int:
    """The amount of the furthest band that the value is past."""
    for b in range(number):
        if value < bands[b, 0] if below else value > bands[b, 0]:
            amount = int(bands[b, 1])
    return amount


@leaf
def trigger_ask(value: float, below: bool, threshold: float, action: int, amount: int, percent: bool, desired: int) -> int:
    """Count asked for where the value is past the threshold, else the desired count. A percentage is rounded half up, and
    at least one."""
    if not (value < threshold if below else value > threshold):
        return desired
    step = max(1, int(math.floor(desired * amount / 100.0 + 0.5))) if percent else amount
    if action == Action.ADD:
        return desired + step
    return max(0, desired - step) if action == Action.REMOVE else amount


@leaf
def count_for(used: float, unit: float, free: float, percent: bool) -> int:
    """The smallest count with so much free, as a share of all or as a number of the units in use."""
    needed = used / (1.0 - min(free, 0.99)) if percent else used + free
    return int(math.ceil(needed / unit - 1e-9))


@leaf
def spare_ask(used: float, unit: float, free: float, percent: bool, slack: float, desired: int) -> int:
    """Count at which so much is free, `used` being in use and `unit` what one instance holds.

    Downward only as far as `slack` more than that would still be free.
    """
    wanted = count_for(used, unit, free, percent)
    if wanted >= desired:
        return wanted
    return min(desired, count_for(used, unit, free * (1.0 + slack), percent))


@hot
def wish(rules: Rules, sight: Sight, p: int, value: float, published: int, desired: int) -> int:
    """The count that policy p wishes for at a value of its metric."""
    policy = rules.policies[p]
    if policy.kind == PolicyKind.HOLD:
        metered = instances_metered(sight.samples[0, policy.metric], sight.metered, published, policy.window)
        return hold_ask(value, metered, policy.level, policy.tolerance, desired)
    if policy.kind == PolicyKind.SPARE:
        return spare_ask(value, rules.row[0].unit, policy.level, policy.percent, policy.tolerance, desired)
    amount = banded(value, policy.below, policy.amount, rules.bands[p], policy.bands)
    return trigger_ask(value, policy.below, policy.level, policy.action, amount, policy.percent, desired)


@hot
def ask(rules: Rules, memory: Memory, sight: Sight, p: int, time: float, published: int, views: np.ndarray, e: int) -> None:
    """Stage 1: what policy p sees, what it is doing and which count it asks for."""
    desired = memory.row[0].desired
    policy = rules.policies[p]
    view = views[e, p]
    value = fold_window(sight.samples[policy.zone, policy.metric], published, policy.window, policy.fold)
    view.value, view.ask = value, desired
    view.wait = max(0.0, memory.waits[p] - time)
    if policy.paused or rules.row[0].paused:
        view.state = Stance.PAUSED
    elif math.isnan(value):
        view.state = Stance.NO_DATA
    else:
        wanted = wish(rules, sight, p, value, published, desired)
        if wanted == desired or (wanted < desired and not policy.removes):
            view.state = Stance.QUIET
        else:
            view.ask = wanted
            view.state = Stance.WAITING if time < memory.waits[p] else Stance.ASKING
