"""Uneven load: instances whose shares of the arrivals or whose capacities differ.

Like regulars at a market who stay with their stall: a new stall wins customers only as old ones go home.
"""

import math

from jostle.core.compiled import hot, inner
from jostle.core.engine.burst import LEAST_PART, tired_part
from jostle.core.engine.code import Life
from jostle.core.engine.kind import worth
from jostle.core.engine.setup import Setup
from jostle.core.engine.state import State

# Shares within this part of an even one count as even.
EVEN = 0.01


@hot
def weight_of(setup: Setup, version: int, kind: int) -> float:
    """What an instance gets of the arrivals beside others: as much as it can do, unless all get the same, times the weight of its
    version."""
    fixed = setup.fixed[0]
    return setup.weights[version] * worth(setup, kind) if fixed.mixed and not fixed.alike else setup.weights[version]


@hot
def drift(setup: Setup, state: State) -> None:
    """Move every serving instance's share of the arrivals one tick toward an even one, or one by its version's weight.

    What those that left had is spread evenly; the rest drifts with the mean time of a client's stay as time constant.
    Says in `uneven` whether shares or capacities still differ.
    """
    now = state.now[0]
    fixed = setup.fixed[0]
    total = weights = 0.0
    for a in range(now.living):
        one = state.instances[state.alive[a]]
        if one.state == Life.SERVING:
            total += one.share
            weights += weight_of(setup, one.version, one.kind) if fixed.weighted or fixed.mixed else 1.0
    even = 1.0 / now.serving
    orphaned = (1.0 - total) * even
    pace = 1.0 - math.exp(-fixed.tick / fixed.sticky) if fixed.sticky > 0.0 else 1.0
    uneven = bool(fixed.alike)
    for a in range(now.living):
        one = state.instances[state.alive[a]]
        if one.state != Life.SERVING:
            continue
        one.share += orphaned
        goal = even
        if (fixed.weighted or fixed.mixed) and weights > 0.0:
            goal = weight_of(setup, one.version, one.kind) / weights
        one.share += (goal - one.share) * pace
        usual = goal if fixed.mixed and not fixed.weighted else even
        uneven = uneven or one.stress > 0.0 or one.tired or abs(one.share - usual) > EVEN * usual
    now.uneven = uneven


@inner
def free_part(setup: Setup, stress: float, is_tired: bool) -> float:
    """Part of an instance's capacity that is left under a stress of so much CPU, and once its credits are gone."""
    free = max(LEAST_PART, 1.0 - stress / (1.0 - setup.fixed[0].idle_cpu))
    return min(free, tired_part(setup, 0)) if is_tired else free
