"""The whole calendar, laid over the evaluations of a rehearsal.

Two entries at once: the higher floor, the narrower bounds. Sleep comes before all, a freeze before all but sleep.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from jostle.core.calendar.occurrence import stretches
from jostle.core.demand.clock import Clock
from jostle.core.plan.calendar import CalendarEntry, Floor, Freeze, Limits, Removals, SetCount, Sleep

HIGHEST = 32000
NOBODY = -1
_GATES = {Sleep: 1, Freeze: 2, Removals: 4}


@dataclass(frozen=True)
class Orders:
    """What holds at each evaluation, and the settings with their times (s from the start).

    `low` and `high` bound the count, the `by` arrays name the entry that does so; `gates` are bits: 1 asleep, 2 frozen,
    4 no removals. All of shape (evaluations,).
    """

    low: NDArray[np.int16]
    high: NDArray[np.int16]
    low_by: NDArray[np.int16]
    high_by: NDArray[np.int16]
    gates: NDArray[np.int8]
    gates_by: NDArray[np.int16]
    settings: list[tuple[float, float, int, int]]


def orders(calendar: list[CalendarEntry], clock: Clock, times: NDArray[np.float64]) -> Orders:
    """`times` are those of the evaluations, s from the start, rising. An entry holds from its beginning to before its end."""
    number = len(times)
    low, high = np.zeros(number, np.int16), np.full(number, HIGHEST, np.int16)
    low_by, high_by, gates_by = (np.full(number, NOBODY, np.int16) for _ in range(3))
    gates = np.zeros(number, np.int8)
    settings: list[tuple[float, float, int, int]] = []
    inside = {Sleep: np.zeros(number, bool), Freeze: np.zeros(number, bool), Removals: np.zeros(number, bool)}
    by = {kind: np.full(number, NOBODY, np.int16) for kind in inside}
    for entry_number, entry in enumerate(calendar):
        if entry.paused:
            continue
        for begin, end in stretches(entry, clock.first, clock.first + clock.seconds, clock.zone):
            since, until = begin - clock.first, end - clock.first
            held = slice(*np.searchsorted(times, [since - 1e-6, until - 1e-6]))
            match entry:
                case SetCount():
                    if since >= 0:
                        settings.append((since, since + entry.retry, entry.count, entry_number))
                case Floor() | Limits():
                    floor = entry.count if isinstance(entry, Floor) else entry.minimum
                    higher = floor > low[held]
                    low[held] = np.where(higher, floor, low[held])
                    low_by[held] = np.where(higher, entry_number, low_by[held])
                    if isinstance(entry, Limits):
                        narrower = entry.maximum < high[held]
                        high[held] = np.where(narrower, entry.maximum, high[held])
                        high_by[held] = np.where(narrower, entry_number, high_by[held])
                case Sleep() | Freeze() | Removals():
                    inside[type(entry)][held] = True
                    by[type(entry)][held] = entry_number
    closed = ~inside[Removals] if any(isinstance(e, Removals) and not e.paused for e in calendar) else np.zeros(number, bool)
    for kind, where in ((Removals, closed), (Freeze, inside[Freeze]), (Sleep, inside[Sleep])):
        gates |= np.where(where, _GATES[kind], 0).astype(np.int8)
        gates_by = np.where(where, by[kind], gates_by)
    return Orders(low, high, low_by, high_by, gates, gates_by, sorted(settings))
