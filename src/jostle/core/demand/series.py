"""A demand's layers, laid over one another on a clock."""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from jostle.core.plan.clock import Clock
from jostle.core.plan.demand import Demand


class Parts(NamedTuple):
    """What layers come to: the sum of the bases, the product of the shapes, the sum of what comes besides; of shape (ticks,)."""

    base: NDArray[np.float64]
    shape: NDArray[np.float64]
    besides: NDArray[np.float64]


def parts_of(demand: Demand, clock: Clock, seed: int, drawn: bool) -> Parts:
    """The layers that are drawn by the seed, or those that are not.

    Raises ValueError where a brought layer still names a file that nobody has read.
    """
    found = Parts(np.zeros(clock.ticks), np.ones(clock.ticks), np.zeros(clock.ticks))
    for place, layer in enumerate(demand.layers):
        if layer.muted or layer.drawn != drawn:
            continue
        one = layer.series(clock, place, seed)
        match layer.role:
            case "base":
                np.add(found.base, one, out=found.base)
            case "besides":
                np.add(found.besides, one, out=found.besides)
            case "shape":
                np.multiply(found.shape, one, out=found.shape)
    return found


def demand_series(demand: Demand, clock: Clock, seed: int, steady: Parts | None = None) -> NDArray[np.float64]:
    """Arrivals per second in each tick, shape (ticks,): the bases shaped, and what comes besides.

    `steady` is the part that no seed changes, where it is at hand. Raises ValueError as `parts_of` does.
    """
    known = parts_of(demand, clock, seed, drawn=False) if steady is None else steady
    chance = parts_of(demand, clock, seed, drawn=True)
    return np.asarray((known.base + chance.base) * known.shape * chance.shape + known.besides + chance.besides)
