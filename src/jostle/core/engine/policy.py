"""What one policy asks for."""

import math

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
def trigger_ask(value: float, below: bool, threshold: float, action: int, amount: int, percent: bool, desired: int) -> int:
    """Count asked for where the value is past the threshold, else the desired count. A percentage is at least one."""
    if not (value < threshold if below else value > threshold):
        return desired
    step = max(1, int(round(desired * amount / 100.0))) if percent else amount
    if action == ADD:
        return desired + step
    return max(0, desired - step) if action == REMOVE else amount
