"""One instance as a counter with several clerks, and visitors who give up: how long answers take at a given load.

The wait that an arrival meets has an atom at 0 and, up to the patience, a density that falls (or, beyond a load of 1, rises)
exponentially. For arrivals by chance and exponential service this is M/M/v with deterministic patience, exactly (Boots and
Tijms, A multiserver queueing system with impatient customers, 1999); it is continuous through a load of 1. Other ways of
spreading, and other lengths of service, change the two numbers of that density.
"""

import math
from collections.abc import Sequence
from enum import IntEnum
from typing import NamedTuple

import numpy as np

from jostle.core.built.figure import stay_tails, wait_tables
from jostle.core.built.laid import FloatBlock, Floats, Shorts, SingleBlock
from jostle.core.engine.lengths import service_points
from jostle.core.engine.spread import Way

LOADS, TIMES = 320, 192
TOP_LOAD = 64.0
# Numbers of instances for which there is a table of its own, where the way of spreading makes a difference
COUNTS = np.array([1, 2, 3, 4, 5, 6, 8, 10, 13, 17, 23, 31, 42, 60, 100, 200])


class Col(IntEnum):
    """Columns of a table of waits: what a load comes to."""

    WAITING = 0  # share of the answered that waited
    FALL = 1  # rate (1/s) at which the density of their wait falls
    QUICK = 2  # share of them whose wait falls faster, where lengths are very uneven
    FASTER = 3  # rate (1/s) for those
    P95 = 4  # s, of wait and service
    LOST = 5  # share of the arrivals that give up
    LINE = 6  # requests that wait, those that will give up included


class Line(NamedTuple):
    """What waiting comes to at each load of an instance, by its type of machine and by the number of instances among which
    requests are spread."""

    loads: Floats  # shape (LOADS,)
    tables: FloatBlock  # shape (types * counts, len(Col), LOADS)
    tails: SingleBlock  # see `stay_tails`
    times: Floats  # s, shape (TIMES,)
    row_of: Shorts  # the row of the first type for each number of instances, the last for more


def load_grid(reach: float) -> Floats:
    """Loads of an instance from 0 to TOP_LOAD, shape (LOADS,), finest about 1.

    `reach` is what an instance answers within the patience: the more, the sharper the turn at a load of 1.
    """
    fine = min(0.02, max(5e-4, 0.5 / reach))
    low, high = math.asinh(-1.0 / fine), math.asinh((TOP_LOAD - 1.0) / fine)
    return np.array([0.0, *(1.0 + fine * math.sinh(low + (high - low) * i / (LOADS - 1)) for i in range(1, LOADS))])


def time_grid(fastest: float, slowest: float, patience: float, unevenness: float) -> Floats:
    """Times (s) at which shares of stays are known, even in their logarithm, for services between two rates (1/s), shape
    (TIMES,)."""
    least, most = 0.01 / fastest, patience + 40.0 * max(1.0, unevenness) / slowest
    return np.array([math.exp(one) for one in np.linspace(math.log(least), math.log(most), TIMES)])


def line_of(
    way: Way, most: int, shapes: Sequence[tuple[int, float]], patience: float, unevenness: float, like: Line | None = None
) -> Line:
    """The line of instances, by type with so many clerks who finish so much each (1/s); up to `most` share the arrivals. Loads
    and times are those of another where it is to be `like` it."""
    counts = np.ones(1, np.int64) if way == Way.CHANCE else COUNTS[: max(1, int(np.searchsorted(COUNTS, most)) + 1)]
    if like is not None:
        loads, times = like.loads, like.times
    else:
        loads = load_grid(max(clerks * rate for clerks, rate in shapes) * patience)
        times = time_grid(max(rate for _, rate in shapes), min(rate for _, rate in shapes), patience, unevenness)
    tables, tails = [], []
    for clerks, rate in shapes:
        service = np.zeros((4, 0)) if unevenness == 1.0 else service_points(unevenness, 1.0 / rate)
        tables.append(wait_tables(int(way), counts, clerks, clerks * rate, patience, unevenness, loads))
        tails.append(stay_tails(tables[-1], times, patience, rate, service))
    nearest = np.abs(np.log(np.maximum(np.arange(counts[-1] + 1), 1))[:, None] - np.log(counts)[None, :]).argmin(axis=1)
    return Line(loads, np.concatenate(tables), np.concatenate(tails), times, nearest.astype(np.int16))


def no_line() -> Line:
    """For work that has none."""
    return Line(np.zeros(0), np.zeros((0, len(Col), 0)), np.zeros((0, 0, 0), np.float32), np.zeros(0), np.zeros(1, np.int16))
