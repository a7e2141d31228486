"""How many of a group's instances are on demand, and how many spot."""

import math

from jostle.core.compiled import leaf

ON_DEMAND, SPOT = 0, 1


@leaf
def wanted_on_demand(first: int, share: float, count: int) -> int:
    """Of so many instances: the first ones, and a share of the rest, rounded up."""
    return min(count, first) + int(math.ceil(max(0, count - first) * share - 1e-9))
