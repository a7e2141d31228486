"""In which order a launch would take what the spot market has."""

import numpy as np

from jostle.core.compiled import leaf
from jostle.core.decide.code import NOBODY
from jostle.core.engine.buying import how_bought, on_demand_type, spot_place
from jostle.core.engine.launch import quota_at
from jostle.core.engine.market import step_at
from jostle.core.engine.setup import Setup
from jostle.core.engine.state import State
from jostle.core.reference import by_reference


@leaf
def rank_places(setup: Setup, state: State, time: float, ranks: np.ndarray) -> tuple[int, int]:
    """Write into `ranks`, of shape (types, zones), which place a spot launch would take now, which if that had nothing, and so
    on, from 1; 0 for those that it would not take. Returns the type that is bought on demand, and how the next launch is bought.
    The market of `setup` is written over."""
    setup, state = by_reference(setup, state)
    quota, step = quota_at(setup, time), step_at(time, setup.market.units.shape[2])
    version = state.memory.row[0].version
    ranks[:] = 0
    for rank in range(ranks.size):
        t, zone = spot_place(setup, state, step, setup.fixed[0].cap_chance, quota, 0.0, 0, NOBODY, version)
        if zone == NOBODY:
            break
        ranks[t, zone] = rank + 1
        setup.market.offered[t, zone, step] = False
    return on_demand_type(setup, state, quota, version), how_bought(setup, state, time)
