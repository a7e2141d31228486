"""How many of a group's instances are on demand, and how many spot."""

import math

import numpy as np
from numpy.typing import NDArray

from jostle.core.compiled import leaf

# How an instance was bought, and its kind by the type of its machine and that
ON_DEMAND, SPOT = 0, 1


@leaf
def kind_of(machine_type: int, bought: int) -> int:
    return 2 * machine_type + bought


@leaf
def type_of(kind: int) -> int:
    return kind // 2


@leaf
def bought(kind: int) -> int:
    return kind % 2


def types_of(kinds: NDArray[np.integer]) -> NDArray[np.integer]:
    """`type_of` of many."""
    return kinds // 2


def are_spot(kinds: NDArray[np.integer]) -> NDArray[np.bool_]:
    """Which of many kinds are `bought` as spot."""
    return kinds % 2 == SPOT


@leaf
def wanted_on_demand(first: int, share: float, count: int) -> int:
    """Of so many instances: the first ones, and a share of the rest, rounded up."""
    return min(count, first) + int(math.ceil(max(0, count - first) * share - 1e-9))
