"""One instance as a counter with several clerks, and visitors who give up: how long answers take at a given load.

The wait that an arrival meets has an atom at 0 and, up to the patience, a density that falls (or, beyond a load of 1, rises)
exponentially. For arrivals by chance and exponential service this is M/M/v with deterministic patience, exactly (Boots and
Tijms, A multiserver queueing system with impatient customers, 1999); it is continuous through a load of 1. Other ways of
spreading, and other lengths of service, change the two numbers of that density.
"""

import math
from enum import IntEnum
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from scipy import stats

from jostle.core.compiled import leaf, maker
from jostle.core.engine.least_busy import CLERKS, INSTANCES, LASTING, WAITING
from jostle.core.engine.least_busy import LOADS as BUSY_LOADS

LOADS, TIMES, POINTS = 320, 192, 40
TOP_LOAD = 64.0
# Numbers of instances for which there is a table of its own, where the way of spreading makes a difference
COUNTS = np.array([1, 2, 3, 4, 5, 6, 8, 10, 13, 17, 23, 31, 42, 60, 100, 200])
# Load up to which the delay formulas are taken; beyond it hardly anybody finds a clerk free in any case
NEARLY = 0.98
MOST_CLERKS = 16
# Part of a lognormal's third moment, beyond the least that there can be, with which waits agree best
SKEWNESS = 0.45


class Way(IntEnum):
    """How the balancer spreads requests."""

    CHANCE = 0
    TURN = 1
    LEAST_BUSY = 2


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
    """What waiting comes to at each load of an instance, by the number of instances among which requests are spread."""

    loads: NDArray[np.float64]  # shape (LOADS,)
    tables: NDArray[np.float64]  # shape (counts, len(Col), LOADS)
    tails: NDArray[np.float32]  # see `stay_tails`
    times: NDArray[np.float64]  # s, shape (TIMES,)
    row_of: NDArray[np.int16]  # the row for each number of instances, the last for more


@leaf
def erlang_b(servers: int, load: float) -> float:
    """Share of the arrivals that find all servers busy in M/M/v without room to wait, at any load.

    By its recurrence (Cooper, Introduction to Queueing Theory, 2nd ed., 3.5).
    """
    offered = servers * load
    blocked = 1.0
    for n in range(1, servers + 1):
        blocked = offered * blocked / (n + offered * blocked)
    return blocked


@leaf
def erlang_c(servers: int, load: float) -> float:
    """Probability that an arrival has to wait in M/M/v, `load` being the utilisation of each server, 0 to below 1."""
    blocked = erlang_b(servers, load)
    return blocked / (1.0 - load * (1.0 - blocked))


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


def service_points(unevenness: float, mean: float) -> NDArray[np.float64]:
    """Lengths of service with a squared coefficient of variation: gamma up to 1, lognormal beyond.

    Rows, shape (4, POINTS + 1): edges (s), the share that is longer than each, the mean between two edges (s), its share.
    """
    tail = 1.0 - 0.1 * np.geomspace(1.0, 1e-5, POINTS // 3)
    shares = np.concatenate([np.linspace(0.0, 0.9, POINTS + 1 - len(tail), endpoint=False), tail])
    found = np.zeros((4, POINTS + 1))
    if unevenness == 0.0:
        found[0], found[1] = mean, 0.0
        found[2, 0], found[3, 0] = mean, 1.0
        return found
    if unevenness <= 1.0:
        law, larger = (
            stats.gamma(1 / unevenness, scale=mean * unevenness),
            stats.gamma(1 / unevenness + 1, scale=mean * unevenness),
        )
    else:
        spread = math.sqrt(math.log(1.0 + unevenness))
        law = stats.lognorm(spread, scale=mean * math.exp(-0.5 * spread**2))
        larger = stats.lognorm(spread, scale=mean * math.exp(0.5 * spread**2))
    found[0] = law.ppf(shares)
    found[1] = 1.0 - shares
    part = np.diff(np.append(larger.cdf(found[0, :-1]), 1.0))
    weight = np.diff(np.append(shares[:-1], 1.0))
    found[2, :-1], found[3, :-1] = mean * part / weight, weight
    return found


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


@leaf
def in_turn_fall(instances: float, load: float) -> float:
    """1 - sigma of GI/M/v whose arrivals are each the n-th of arrivals by chance; 1 - load for one instance.

    The root other than 0 of (1 - y) ** (1/n) * (1 + y / (n * load)) = 1 (Cooper, 5.14), continuous through a load of 1, where
    both are 0.
    """
    low, high = -instances * load * (1.0 - 1e-12), 1.0 - 1e-15
    for _ in range(60):
        y = 0.5 * (low + high)
        if abs(y) < 1e-9:
            slope = 1.0 / (instances * load) - 1.0 / instances
        else:
            slope = (math.log1p(-y) / instances + math.log1p(y / (instances * load))) / y
        if slope > 0.0:
            low = y
        else:
            high = y
    return 0.5 * (low + high)


@leaf
def in_turn_waiting(clerks: int, instances: float, load: float, fall: float) -> float:
    """Probability that an arrival has to wait in GI/M/v whose arrivals are each the n-th of arrivals by chance.

    Takács (Introduction to the Theory of Queues, 1962, II.2).
    """
    total, product, ways = 1.0 / fall, 1.0, 1.0
    arriving = instances * clerks * load
    for j in range(1, clerks + 1):
        phi = (arriving / (arriving + j)) ** instances
        product *= phi / (1.0 - phi)
        ways *= (clerks - j + 1) / j
        below = clerks * fall - j
        if abs(below) < 1e-9:
            below = 1e-9
        total += ways / (product * (1.0 - phi)) * (clerks * (1.0 - phi) - j) / below
    return min(1.0, max(0.0, 1.0 / (total * fall)))


@leaf
def between(xs: np.ndarray, x: float) -> float:
    """Place of x among rising numbers, as a position that may lie between two; the ends hold beyond them."""
    if x <= xs[0]:
        return 0.0
    for i in range(1, len(xs)):
        if x <= xs[i]:
            return i - 1 + (x - xs[i - 1]) / (xs[i] - xs[i - 1])
    return len(xs) - 1.0


@leaf
def corrected(tables: np.ndarray, clerks: int, instances: float, load: float) -> float:
    """A figure of the least busy tables between those that were measured: by the logarithm of the instances, and the load."""
    c = 0
    while c < len(CLERKS) - 1 and CLERKS[c + 1] <= clerks:
        c += 1
    table = tables[c]
    across = between(BUSY_LOADS, load)
    j = min(int(across), len(BUSY_LOADS) - 2)
    i = 0
    while i < len(INSTANCES) - 2 and INSTANCES[i + 1] <= instances:
        i += 1
    down = math.log(instances / INSTANCES[i]) / math.log(INSTANCES[i + 1] / INSTANCES[i])
    down, across = min(1.0, down), across - j
    low = table[i, j] + across * (table[i, j + 1] - table[i, j])
    high = table[i + 1, j] + across * (table[i + 1, j + 1] - table[i + 1, j])
    return low + down * (high - low)


@leaf
def waiting_and_fall(way: int, clerks: int, instances: float, load: float) -> tuple[float, float]:
    """Probability of a wait where nobody gives up, at most at a load of NEARLY, and its fall in services of a whole instance."""
    near = min(load, NEARLY)
    if way == Way.TURN:
        fall = in_turn_fall(instances, load)
        if clerks > MOST_CLERKS:
            return erlang_c(clerks, near), fall
        return in_turn_waiting(clerks, instances, near, in_turn_fall(instances, near)), fall
    if way == Way.LEAST_BUSY:
        share = erlang_c(int(clerks * instances), near) * corrected(WAITING, clerks, instances, near)
        fall = (1.0 - load**instances) / corrected(LASTING, clerks, instances, near)
        return share, max(fall, -1e3)
    return erlang_c(clerks, near), 1.0 - load


@leaf
def two_kinds(unevenness: float) -> tuple[float, float, float]:
    """Exponential lengths of two kinds, of mean 1, that are as uneven as that (above 1) and nearly as skewed as lognormal ones.

    Returns the share of the long kind, its mean and that of the short one, from three moments (Whitt, Approximating a point
    process by a renewal process, 1982).
    """
    second = 1.0 + unevenness
    x, y = SKEWNESS * (second**3 - 1.5 * second * second), max(unevenness - 1.0, 0.02)
    middle = x + 1.5 * y * y + 3.0 * y
    root = math.sqrt((x + 1.5 * y * y - 3.0 * y) ** 2 + 18.0 * y**3)
    long, short = (middle + root) / (6.0 * y), (middle - root) / (6.0 * y)
    share = (1.0 - short) / (long - short)
    return share, long, short


@leaf
def two_falls(load: float, unevenness: float) -> tuple[float, float, float]:
    """The two rates at which the density of the wait falls in M/H2/1, in services, and the part of the first at a wait of 0.

    The poles of its transform (Cooper, 5.8), for lengths of `two_kinds`; the first is 0 at a load of 1 and negative beyond.
    """
    _, long, short = two_kinds(unevenness)
    quick, slow = 1.0 / short, 1.0 / long
    both = quick * slow
    half = 0.5 * (quick + slow - load)
    root = math.sqrt(half * half - both * (1.0 - load))
    fast = half + root
    fall = both * (1.0 - load) / fast
    return fall, fast, (both - fall) / (fast - fall)


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
def time_grid(service_rate: float, patience: float, unevenness: float) -> np.ndarray:
    """Times (s) at which shares of stays are known, even in their logarithm, shape (TIMES,)."""
    least, most = 0.01 / service_rate, patience + 40.0 * max(1.0, unevenness) / service_rate
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


def line_of(way: Way, most: int, clerks: int, service_rate: float, patience: float, unevenness: float) -> Line:
    """The line of an instance with so many clerks, each finishing `service_rate` (1/s); up to `most` share the arrivals."""
    counts = np.ones(1, np.int64) if way == Way.CHANCE else COUNTS[: max(1, int(np.searchsorted(COUNTS, most)) + 1)]
    loads = load_grid(clerks * service_rate * patience)
    tables = wait_tables(int(way), counts, clerks, clerks * service_rate, patience, unevenness, loads)
    service = np.zeros((4, 0)) if unevenness == 1.0 else service_points(unevenness, 1.0 / service_rate)
    times = time_grid(service_rate, patience, unevenness)
    tails = stay_tails(tables, times, patience, service_rate, service)
    nearest = np.abs(np.log(np.maximum(np.arange(counts[-1] + 1), 1))[:, None] - np.log(counts)[None, :]).argmin(axis=1)
    return Line(loads, tables, tails, times, nearest.astype(np.int16))


def no_line() -> Line:
    """For work that has none."""
    return Line(np.zeros(0), np.zeros((0, len(Col), 0)), np.zeros((0, 0, 0), np.float32), np.zeros(0), np.zeros(1, np.int16))
