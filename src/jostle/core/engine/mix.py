"""How many of a group's instances are on demand, and how many spot."""

import numpy as np
from numpy.typing import NDArray

# How an instance was bought, and its kind by the type of its machine and that
ON_DEMAND, SPOT = 0, 1


def types_of(kinds: NDArray[np.integer]) -> NDArray[np.integer]:
    """`type_of` of many."""
    return kinds // 2


def are_spot(kinds: NDArray[np.integer]) -> NDArray[np.bool_]:
    """Which of many kinds are `bought` as spot."""
    return kinds % 2 == SPOT
