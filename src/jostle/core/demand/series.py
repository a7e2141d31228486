"""A demand's layers, laid over one another on a clock."""

import numpy as np
from numpy.typing import NDArray

from jostle.core.plan.clock import Clock
from jostle.core.plan.demand import Demand


def demand_series(demand: Demand, clock: Clock, seed: int) -> NDArray[np.float64]:
    """Arrivals per second in each tick, shape (ticks,): the bases shaped, and what comes besides.

    Raises ValueError where a brought layer still names a file that nobody has read.
    """
    base, shape, besides = np.zeros(clock.ticks), np.ones(clock.ticks), np.zeros(clock.ticks)
    for place, layer in enumerate(demand.layers):
        if layer.muted:
            continue
        one = layer.series(clock, place, seed)
        match layer.role:
            case "base":
                base += one
            case "besides":
                besides += one
            case "shape":
                shape *= one
    return np.asarray(base * shape + besides)
