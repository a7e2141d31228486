"""The whole calendar, laid over the instants at which decisions are made.

Two entries at once: the higher floor, the narrower bounds. Sleep comes before all, a freeze before all but sleep.
"""

from dataclasses import dataclass
from enum import IntEnum
from zoneinfo import ZoneInfo

import numpy as np
from numpy.typing import NDArray

from jostle.core.calendar.occurrence import stretches
from jostle.core.plan.calendar import AddCount, CalendarEntry, Floor, Freeze, Limits, Removals, SetCount, Sleep
from jostle.core.plan.clock import seconds_of_week
from jostle.core.plan.entry import Readied, Setting
from jostle.core.plan.rollout import Rollout

HIGHEST = 32000
NOBODY = -1
# A setting is tried at the next decision at least, which comes within the hour
_NEXT = 3600.0


class Gate(IntEnum):
    """What stops the policies, as bits."""

    SLEEP = 1
    FREEZE = 2
    NO_REMOVALS = 4


@dataclass(frozen=True)
class Orders:
    """What holds at each instant, and the latest setting until then with its times (s from the origin).

    `low` and `high` bound the count; the `by` arrays and `set_entry` name the entry that does so; `gates` are bits of Gate.
    `set_time` is minus infinity where nothing was set; `set_count` is added where `set_by`. `week` is how long
    ago (s) Monday began on the wall clock. All of shape (instants,).
    """

    low: NDArray[np.int16]
    high: NDArray[np.int16]
    low_by: NDArray[np.int16]
    high_by: NDArray[np.int16]
    gates: NDArray[np.int8]
    gates_by: NDArray[np.int16]
    set_time: NDArray[np.float64]
    set_until: NDArray[np.float64]
    set_count: NDArray[np.int16]
    set_by: NDArray[np.bool_]
    set_entry: NDArray[np.int16]
    week: NDArray[np.int32]


def orders(calendar: list[CalendarEntry], origin: float, zone: ZoneInfo, times: NDArray[np.float64], lead: float = 0.0) -> Orders:
    """What the calendar says at `times`, s from the origin (s since 1970), rising; one instant will do.

    `lead` is how long (s) before its time an entry orders whose instances are to be ready by it.

    An entry holds from its beginning to before its end. Settings before the origin are past.
    """
    number = len(times)
    low, high = np.zeros(number, np.int16), np.full(number, HIGHEST, np.int16)
    low_by, high_by, gates_by = (np.full(number, NOBODY, np.int16) for _ in range(3))
    gates = np.zeros(number, np.int8)
    settings: list[tuple[float, float, int, bool, int]] = []
    inside = {Sleep: np.zeros(number, bool), Freeze: np.zeros(number, bool), Removals: np.zeros(number, bool)}
    by = {kind: np.full(number, NOBODY, np.int16) for kind in inside}
    first, last = (float(times[0]), float(times[-1]) + 1.0) if number else (0.0, 0.0)
    for entry_number, entry in enumerate(calendar):
        if entry.paused:
            continue
        tried = entry.retry + _NEXT if isinstance(entry, Setting) else 0.0
        early = lead if isinstance(entry, Readied) and entry.ready_by else 0.0
        for begin, end in stretches(entry, origin + max(0.0, first - tried), origin + last + early, zone):
            since, until = begin - origin, end - origin
            ahead, *held_in = np.searchsorted(times, [since - early - 1e-6, since - 1e-6, until - 1e-6])
            called, held = slice(ahead, held_in[1]), slice(*held_in)
            match entry:
                case SetCount() | AddCount():
                    count, by_so_many = (entry.by, True) if isinstance(entry, AddCount) else (entry.count, False)
                    if since - early >= 0:
                        settings.append((since - early, since - early + entry.retry, count, by_so_many, entry_number))
                case Floor() | Limits():
                    floor = entry.count if isinstance(entry, Floor) else entry.minimum
                    higher = floor > low[called]
                    low[called] = np.where(higher, floor, low[called])
                    low_by[called] = np.where(higher, entry_number, low_by[called])
                    if isinstance(entry, Limits):
                        narrower = entry.maximum < high[held]
                        high[held] = np.where(narrower, entry.maximum, high[held])
                        high_by[held] = np.where(narrower, entry_number, high_by[held])
                case Sleep():
                    asleep = slice(held.start, int(np.searchsorted(times, until - early - 1e-6)))
                    inside[Sleep][asleep] = True
                    by[Sleep][asleep] = entry_number
                case Rollout():
                    pass
                case Freeze() | Removals():
                    inside[type(entry)][held] = True
                    by[type(entry)][held] = entry_number
    closed = ~inside[Removals] if any(isinstance(e, Removals) and not e.paused for e in calendar) else np.zeros(number, bool)
    for kind, gate, where in (
        (Removals, Gate.NO_REMOVALS, closed),
        (Freeze, Gate.FREEZE, inside[Freeze]),
        (Sleep, Gate.SLEEP, inside[Sleep]),
    ):
        gates |= np.where(where, gate, 0).astype(np.int8)
        gates_by = np.where(where, by[kind], gates_by)
    week = np.zeros(0) if not number else seconds_of_week(origin + times, zone)
    return Orders(low, high, low_by, high_by, gates, gates_by, *_latest(sorted(settings), times), week.astype(np.int32))


def _latest(
    settings: list[tuple[float, float, int, bool, int]], times: NDArray[np.float64]
) -> tuple[NDArray[np.float64], NDArray[np.float64], NDArray[np.int16], NDArray[np.bool_], NDArray[np.int16]]:
    """The columns of the latest setting at or before each time; of two at once the later in the order counts."""
    known = [(-np.inf, -np.inf, 0, False, NOBODY), *settings]
    since, until, count, by, entry = (np.array(column) for column in zip(*known, strict=True))
    which = np.searchsorted(since - 1e-6, times, side="right") - 1
    return since[which], until[which], count[which].astype(np.int16), by[which], entry[which].astype(np.int16)
