"""In which zone an instance is launched."""

from jostle.core.compiled import inner
from jostle.core.decide.code import NOBODY
from jostle.core.engine.setup import Setup
from jostle.core.engine.state import State


@inner
def zone_for(setup: Setup, state: State, home: int) -> int:
    """The open zone with the fewest instances, the first of several; without balance the first open one; `home` alone where it
    has one. NOBODY if none."""
    best = NOBODY
    for z in range(len(state.zones)):
        zone = state.zones[z]
        if zone.lost > 0 or zone.closed > 0 or home not in (NOBODY, z):
            continue
        if best == NOBODY:
            best = z
            if not setup.rules.row[0].balance_zones:
                break
        elif zone.present < state.zones[best].present:
            best = z
    return best
