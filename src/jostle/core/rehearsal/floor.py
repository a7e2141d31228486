"""How many were to serve at each time: the group's minimum and the calendar's, at the times that they name."""

import numpy as np
from numpy.typing import NDArray

from jostle.core.calendar.orders import Gate, orders
from jostle.core.plan.entry import Readied
from jostle.core.rehearsal.rehearsal import Rehearsal


def floor_of(rehearsal: Rehearsal) -> NDArray[np.int64]:
    """The count in each tick, 0 while the group sleeps, shape (ticks,); the calendar's from an evaluation on."""
    clock, group, setup = rehearsal.clock, rehearsal.crew.group, rehearsal.result.setup
    if not group.calendar:
        return np.full(clock.ticks, group.minimum)
    low, gates = setup.orders["low"], setup.orders["gates"]
    every = int(setup.of("evaluate_ticks"))
    if any(isinstance(entry, Readied) and entry.ready_by for entry in group.calendar):
        times = clock.epochs[every::every] - clock.first
        told = orders(group.calendar, clock.first, clock.zone, times)
        low, gates = told.low, told.gates
    floors = np.where(gates & Gate.SLEEP, 0, np.clip(low, group.minimum, group.maximum))
    found = np.concatenate([np.full(every, group.minimum), np.repeat(floors, every)])[: clock.ticks]
    return np.concatenate([found, np.full(clock.ticks - len(found), found[-1])])


def under_floor(rehearsal: Rehearsal) -> NDArray[np.bool_]:
    """Ticks in which fewer instances served than were to, shape (ticks,)."""
    return np.asarray(rehearsal.result.series["units"] < floor_of(rehearsal))
