"""How many instances were to serve at each time: the group's minimum and the calendar's, at the times that they name."""

import numpy as np
from numpy.typing import NDArray

from jostle.core.calendar.orders import Gate, orders
from jostle.core.rehearsal.rehearsal import Rehearsal


def floor_of(rehearsal: Rehearsal) -> NDArray[np.int64]:
    """The count in each tick, 0 while the group sleeps, shape (ticks,)."""
    clock, group = rehearsal.clock, rehearsal.crew.group
    if not group.calendar:
        return np.full(clock.ticks, group.minimum)
    told = orders(group.calendar, clock.first, clock.zone, clock.epochs - clock.first)
    return np.where(told.gates & Gate.SLEEP, 0, np.clip(told.low, group.minimum, group.maximum))


def under_floor(rehearsal: Rehearsal) -> NDArray[np.bool_]:
    """Ticks in which fewer instances served than were to, shape (ticks,)."""
    return np.asarray(rehearsal.result.series["serving"] < floor_of(rehearsal))
