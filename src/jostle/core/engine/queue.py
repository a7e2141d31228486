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
from numpy.typing import NDArray

from jostle.core.compiled import leaf, maker
from jostle.core.engine.lengths import service_points
from jostle.core.engine.spread import NEARLY, Way, two_falls, waiting_and_fall

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

    loads: NDArray[np.float64]  # shape (LOADS,)
    tables: NDArray[np.float64]  # shape (types * counts, len(Col), LOADS)
    tails: NDArray[np.float32]  # see `stay_tails`
    times: NDArray[np.float64]  # s, shape (TIMES,)
    row_of: NDArray[np.int16]  # the row of the first type for each number of instances, the last for more


@leaf
def rising(rate: float, span: float) -> float:
    """rate / (1 - exp(-rate * span)): the density at 0 of an exponential cut off at `span`, continuous through a rate of 0."""
    x = rate * span
    return 1.0 / span if abs(x) < 1e-9 else -rate / math.expm1(-x) if x > -700.0 else 0.0


@leaf
def wait_beyond(t: float, fall: float, patience: float) -> float:
    """Probability that a wait, exponential with rate `fall` (which may be negative) and cut off at the patience, is over t."""
    if t <= 0.0:
        return 1.0
    if t >= patience:
        return 0.0
    if abs(fall * patience) < 1e-9:
        return 1.0 - t / patience
    if fall > 0.0:
        return (math.exp(-fall * t) - math.exp(-fall * patience)) / -math.expm1(-fall * patience)
    return -math.expm1(fall * (patience - t)) / -math.expm1(fall * patience)


@leaf
def stay_beyond(t: float, waiting: float, fall: float, patience: float, service_rate: float) -> float:
    """Probability that wait and exponential service together take longer than t seconds, of those answered.

    The sum of two exponentials, one of them cut off (Ross, Introduction to Probability Models, 5.2.4).
    """
    if t <= 0.0:
        return 1.0
    served = math.exp(-service_rate * t)
    m = min(t, patience)
    gap = service_rate - fall
    if fall >= 0.0:
        both = m * served if abs(gap * m) < 1e-7 else (math.exp(-service_rate * (t - m) - fall * m) - served) / gap
        both *= rising(fall, patience)
    else:
        ends = math.exp(-service_rate * (t - m) + fall * (patience - m)) - math.exp(fall * patience) * served
        both = rising(-fall, patience) * ends / gap
    return (1.0 - waiting) * served + waiting * (both + wait_beyond(t, fall, patience))


@leaf
def uneven_stay_beyond(
    t: float, waiting: float, fall: float, quick: float, faster: float, patience: float, service: np.ndarray
) -> float:
    """The same for service of any lengths, as `service_points` has them; a part of the waits may fall faster."""
    if t <= 0.0:
        return 1.0
    last = service.shape[1] - 1
    alone = 0.0
    if t < service[0, 0]:
        alone = 1.0
    elif t < service[0, last]:
        i = 0
        while service[0, i + 1] <= t:
            i += 1
        part = (t - service[0, i]) / (service[0, i + 1] - service[0, i])
        alone = service[1, i] + part * (service[1, i + 1] - service[1, i])
    both = 0.0
    for i in range(last):
        both += service[3, i] * (1.0 - quick) * wait_beyond(t - service[2, i], fall, patience)
        if quick > 0.0:
            both += service[3, i] * quick * wait_beyond(t - service[2, i], faster, patience)
    return (1.0 - waiting) * alone + waiting * both


@maker
def load_grid(reach: float) -> np.ndarray:
    """Loads of an instance from 0 to TOP_LOAD, shape (LOADS,), finest about 1.

    `reach` is what an instance answers within the patience: the more, the sharper the turn at a load of 1.
    """
    fine = min(0.02, max(5e-4, 0.5 / reach))
    low, high = math.asinh(-1.0 / fine), math.asinh((TOP_LOAD - 1.0) / fine)
    loads = np.empty(LOADS)
    for i in range(LOADS):
        loads[i] = 1.0 + fine * math.sinh(low + (high - low) * i / (LOADS - 1))
    loads[0] = 0.0
    return loads


@maker
def wait_tables(
    way: int, counts: np.ndarray, clerks: int, capacity: float, patience: float, unevenness: float, loads: np.ndarray
) -> np.ndarray:
    """What each load comes to, shape (len(counts), len(Col), LOADS), but for Col.P95.

    `capacity` is what the clerks of an instance finish together (1/s), `counts` numbers of instances among which requests are
    spread. More uneven service makes waits longer in the measure of Allen and Cunneen (Allen, Probability, Statistics and
    Queueing Theory, 1990, 5.3), and those of very uneven service fall as in M/H2/1.
    """
    tables = np.empty((len(counts), 7, len(loads)))
    for c in range(len(counts)):
        instances = float(counts[c])
        spread = 1.0 / instances if way == Way.TURN else 1.0
        longer = (spread + unevenness) / (spread + 1.0) if unevenness < 1.0 else 1.0
        for i in range(len(loads)):
            load = max(loads[i], 1e-9)
            if abs(1.0 - load) < 1e-6:
                load = 1.0 + 1e-6
            share, fall = waiting_and_fall(way, clerks, instances, load)
            _, own = waiting_and_fall(way, clerks, instances, min(load, NEARLY))
            share = min(share, 1.0 - 1e-12)
            first = share / (1.0 - share) * own * capacity / longer
            falls = (fall * capacity / longer, 1.0)
            parts = (1.0, 0.0)
            if unevenness > 1.0:
                slow, fast, part = two_falls(load, unevenness)
                falls = (slow / (1.0 - load) * fall * capacity, fast * capacity)
                parts = (part, 1.0 - part)
            # In measures of the density at the patience where it rises, lest it grow beyond all numbers
            risen = max(min(falls[0], falls[1]) * patience, -700.0)
            atom = math.exp(risen) if risen < 0.0 else 1.0
            within = beyond = waited = quick = 0.0
            for n in range(2):
                reach = falls[n] * patience
                if parts[n] == 0.0:
                    continue
                if reach >= 0.0:
                    inside, ends = atom / rising(falls[n], patience), atom * math.exp(-min(reach, 700.0))
                else:
                    inside, ends = 1.0 / rising(-falls[n], patience), 1.0
                inside *= first * parts[n]
                within += inside
                waited += inside * mean_wait(falls[n], patience)
                quick = inside
                # Beyond the patience the line falls as it is served; what comes in is what goes out.
                beyond += first * parts[n] * ends * (1.0 - load) / falls[n]
            whole = atom + within + beyond
            tables[c, Col.WAITING, i] = within / (atom + within)
            tables[c, Col.FALL, i], tables[c, Col.FASTER, i] = falls
            tables[c, Col.QUICK, i] = quick / within if parts[1] > 0.0 else 0.0
            tables[c, Col.P95, i] = 0.0
            tables[c, Col.LOST, i] = min(1.0, max(0.0, beyond / whole))
            tables[c, Col.LINE, i] = load * capacity * (waited + beyond * patience) / whole
    return tables


@leaf
def mean_wait(fall: float, patience: float) -> float:
    """Mean of a wait, exponential with rate `fall` (which may be negative) and cut off at the patience."""
    x = fall * patience
    if abs(x) < 1e-4:
        return patience * (0.5 - x / 12.0)
    return 1.0 / fall - patience / math.expm1(min(x, 700.0))


@maker
def time_grid(fastest: float, slowest: float, patience: float, unevenness: float) -> np.ndarray:
    """Times (s) at which shares of stays are known, even in their logarithm, for services between two rates (1/s), shape
    (TIMES,)."""
    least, most = 0.01 / fastest, patience + 40.0 * max(1.0, unevenness) / slowest
    return np.exp(np.linspace(math.log(least), math.log(most), TIMES))


@maker
def stay_tails(tables: np.ndarray, times: np.ndarray, patience: float, service_rate: float, service: np.ndarray) -> np.ndarray:
    """Share of the answers that take longer than each time, by count and load, shape (counts, LOADS, TIMES).

    `service` is empty for exponential lengths. The tables' 95th percentiles are filled in from it.
    """
    tails = np.empty((tables.shape[0], tables.shape[2], len(times)), np.float32)
    for c in range(tables.shape[0]):
        for i in range(tables.shape[2]):
            waiting, fall = tables[c, Col.WAITING, i], tables[c, Col.FALL, i]
            quick, faster = tables[c, Col.QUICK, i], tables[c, Col.FASTER, i]
            for t in range(len(times)):
                if service.shape[1] == 0:
                    tails[c, i, t] = stay_beyond(times[t], waiting, fall, patience, service_rate)
                else:
                    tails[c, i, t] = uneven_stay_beyond(times[t], waiting, fall, quick, faster, patience, service)
            tables[c, Col.P95, i] = quantile(tails[c, i], times, 0.05)
    return tails


@leaf
def beyond_at(tail: np.ndarray, times: np.ndarray, t: float, whole: float) -> float:
    """What of `whole` takes longer than t seconds, between the times at which it is known."""
    if t <= 0.0:
        return whole
    if t >= times[-1]:
        return 0.0
    i = int(math.log(max(t, times[0]) / times[0]) / math.log(times[1] / times[0]))
    i = min(max(i, 0), len(times) - 2)
    if t < times[0]:
        return whole + t / times[0] * (tail[0] - whole)
    return tail[i] + (t - times[i]) / (times[i + 1] - times[i]) * (tail[i + 1] - tail[i])


@leaf
def quantile(tail: np.ndarray, times: np.ndarray, allowed: float) -> float:
    """Time (s) that all but `allowed` stay under."""
    low, high = 0, len(times) - 1
    if tail[0] <= allowed:
        return times[0]
    while high - low > 1:
        middle = (low + high) // 2
        if tail[middle] > allowed:
            low = middle
        else:
            high = middle
    drop = tail[low] - tail[high]
    return times[low] + (times[high] - times[low]) * min(1.0, (tail[low] - allowed) / drop) if drop > 0.0 else times[high]


@leaf
def mixed_tail(weights: np.ndarray, tails: np.ndarray, found: np.ndarray) -> float:
    """Add to `found` the answers that take longer than each time, of `weights` answers by load; returns how many they are."""
    answers = 0.0
    for i in range(len(weights)):
        if weights[i] > 0.0:
            answers += weights[i]
            for t in range(len(found)):
                found[t] += weights[i] * tails[i, t]
    return answers


@leaf
def mixed_beyond(tails: np.ndarray, times: np.ndarray, extras: np.ndarray, answers: np.ndarray, t: float) -> float:
    """Answers that take longer than t seconds, the n-th of the tails being delayed by the n-th of the extras besides."""
    beyond = 0.0
    for n in range(len(extras)):
        if answers[n] > 0.0:
            beyond += beyond_at(tails[n], times, t - extras[n], answers[n])
    return beyond


@leaf
def mixed_quantile(tails: np.ndarray, times: np.ndarray, extras: np.ndarray, answers: np.ndarray, allowed: float) -> float:
    """Time (s) that all but `allowed` answers stay under."""
    if len(extras) == 1:
        return quantile(tails[0], times, allowed)
    low, high = 0.0, times[-1] + extras[-1]
    for _ in range(40):
        middle = 0.5 * (low + high)
        if mixed_beyond(tails, times, extras, answers, middle) > allowed:
            low = middle
        else:
            high = middle
    return 0.5 * (low + high)


@leaf
def load_place(line: np.ndarray, loads: np.ndarray, can: float, there: float, guess: int) -> float:
    """Position among the loads at which what is `there` equals what is done in a tick and the line that stays.

    An instance can do `can` in a tick. The line follows its stationary length at the load that it is under (the pointwise
    stationary fluid flow of Wang, Tipper and Banerjee, 1996); the search begins at `guess`.
    """
    i = min(max(guess, 0), len(loads) - 2)
    while i > 0 and line[i] + can * loads[i] > there:
        i -= 1
    while i < len(loads) - 2 and line[i + 1] + can * loads[i + 1] <= there:
        i += 1
    low, high = line[i] + can * loads[i], line[i + 1] + can * loads[i + 1]
    return i + min(1.0, max(0.0, (there - low) / (high - low)))


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
