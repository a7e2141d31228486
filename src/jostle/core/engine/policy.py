"""What one policy asks for."""

import math

import numpy as np

from jostle.core.compiled import leaf
from jostle.core.engine.code import ADD, REMOVE


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
    """Count asked for where the value is past the threshold, else the desired count. A percentage is at least one."""
    if not (value < threshold if below else value > threshold):
        return desired
    step = max(1, int(round(desired * amount / 100.0))) if percent else amount
    if action == ADD:
        return desired + step
    return max(0, desired - step) if action == REMOVE else amount


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
