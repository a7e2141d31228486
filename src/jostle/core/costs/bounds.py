"""The two bounds of cost for one demand: always-peak and foresight.

Always-peak is the careful neighbour who leaves every light on: the smallest fixed count that keeps the promises.
Foresight is the one who knows the week beforehand: it has, minute by minute, just the count that one utilisation
asks for, the highest at which the promises still hold over the whole span, and pays for boots and drains.
"""

import math
from dataclasses import dataclass
from decimal import Decimal

import numpy as np
from numpy.typing import NDArray

from jostle.core.compiled import leaf, maker
from jostle.core.costs.price import bill
from jostle.core.engine.queue import LOADS, load_position, stay_beyond
from jostle.core.engine.result import run
from jostle.core.engine.state import Setup
from jostle.core.plan.promise import AnswersPromise

MOST = 4096


@dataclass(frozen=True)
class Bounds:
    """Costs over the whole span; None where no count keeps the promises."""

    always_peak_count: int | None
    always_peak: Decimal | None
    foresight: Decimal | None


def bounds(setup: Setup, promises: list[AnswersPromise], price_per_hour: Decimal) -> Bounds:
    """Both bounds. Without a promise of answers, the promise taken is that nothing fails."""
    count = always_peak_count(setup, promises)
    seconds = foresight_seconds(setup, promises)
    if count is not None:
        # A fixed count may let a short peak wait, which the utilisation of foresight never does.
        seconds = min(seconds if seconds is not None else np.inf, count * setup.ticks * setup.tick)
    return Bounds(
        count,
        None if count is None else bill(float(count) * setup.ticks * setup.tick, price_per_hour),
        None if seconds is None else bill(seconds, price_per_hour),
    )


def _keeps(setup: Setup, count: int, promises: list[AnswersPromise]) -> bool:
    fixed = setup._replace(
        policies=setup.policies[:0],
        minimum=count,
        maximum=count,
        first_count=count,
        evaluate_ticks=setup.ticks,
        period_ticks=setup.ticks,
        meter_latency=False,
    )
    result = run(fixed)
    if not promises:
        return result.tally("failed") == 0
    return all(result.late_share(p.within) <= 1 - p.share + 1e-12 for p in promises)


def always_peak_count(setup: Setup, promises: list[AnswersPromise]) -> int | None:
    """The smallest fixed count that keeps the promises, since more is never worse.

    The count that would do if every tick were steady is a good guess; from it the search walks with doubling strides.
    """
    low, high = 0, _steady_count(setup, promises)
    stride = 1
    if _keeps(setup, high, promises):
        while high - stride > 0 and _keeps(setup, high - stride, promises):
            high, stride = high - stride, 2 * stride
        low = max(0, high - stride)
    else:
        while not _keeps(setup, high, promises):
            low, high, stride = high, high + stride, 2 * stride
            if high > MOST:
                return None
    while high - low > 1:
        middle = (low + high) // 2
        low, high = (low, middle) if _keeps(setup, middle, promises) else (middle, high)
    return high


def _steady_count(setup: Setup, promises: list[AnswersPromise]) -> int:
    """The smallest count that keeps the promises if every tick were steady; without promises, that of the highest rate."""
    low, high = 0, max(1, int(np.ceil(setup.rate.max() / setup.capacity)))
    tables = [(_late_by_load(setup, p.within), (1 - p.share) * setup.rate.sum()) for p in promises]
    while promises and high - low > 1:
        middle = (low + high) // 2
        fits = all(_late(setup.rate, setup.ticks, setup.capacity, 1.0, middle, late) <= allowed for late, allowed in tables)
        low, high = (low, middle) if fits else (middle, high)
    return high


def foresight_seconds(setup: Setup, promises: list[AnswersPromise]) -> float | None:
    """Billed seconds with perfect knowledge, or None where no utilisation keeps the promises."""
    tables = [(_late_by_load(setup, p.within), (1 - p.share) * setup.rate.sum()) for p in promises]

    def kept(load: float) -> bool:
        found = (_late(setup.rate, setup.evaluate_ticks, setup.capacity, load, 0, late) <= allowed for late, allowed in tables)
        return all(found)

    low, high = 0.05, 1.0
    if kept(high):
        low = high
    elif not kept(low):
        return None
    for _ in range(12):
        if low == high:
            break
        middle = (low + high) / 2
        low, high = (middle, high) if kept(middle) else (low, middle)
    return _billed(setup, _counts(setup.rate, setup.evaluate_ticks, setup.capacity, low))


def _late_by_load(setup: Setup, within: float) -> NDArray[np.float64]:
    """Share of requests that take longer than `within` seconds, at each load of the grid."""
    stay = within - setup.base_latency
    return np.array([stay_beyond(stay, setup.waits[0, i], setup.waits[1, i], setup.service_rate) for i in range(LOADS)])


@leaf
def needed(rate: np.ndarray, begin: int, end: int, capacity: float, load: float) -> int:
    """Count at which the highest rate from tick `begin` to before `end` meets this utilisation."""
    peak = 0.0
    for k in range(begin, end):
        peak = max(peak, rate[k])
    return int(math.ceil(peak / (capacity * load) - 1e-9))


@leaf
def _late(rate: np.ndarray, step: int, capacity: float, load: float, fixed: int, late: np.ndarray) -> float:
    """Late requests per second, summed over ticks, with the count needed in each interval of `step` ticks.

    A `fixed` count above zero stands in place of the needed one. Each tick is taken as steady; beyond the grid of loads
    all are late.
    """
    total = 0.0
    for begin in range(0, len(rate), step):
        end = min(begin + step, len(rate))
        count = fixed if fixed > 0 else needed(rate, begin, end, capacity, load)
        for k in range(begin, end):
            if rate[k] <= 0.0:
                continue
            busy = rate[k] / (count * capacity)
            if busy > 1.0:
                total += rate[k]
                continue
            position = load_position(busy)
            low = min(int(position), len(late) - 2)
            total += rate[k] * (late[low] + (position - low) * (late[low + 1] - late[low]))
    return total


@maker
def _counts(rate: np.ndarray, step: int, capacity: float, load: float) -> np.ndarray:
    """Count of each interval between evaluations at this utilisation."""
    counts = np.empty((len(rate) + step - 1) // step, np.int64)
    for i in range(len(counts)):
        counts[i] = needed(rate, i * step, min((i + 1) * step, len(rate)), capacity, load)
    return counts


def _billed(setup: Setup, counts: NDArray[np.int64]) -> float:
    """Seconds billed for a path of counts, the n-th instance being there while the count is n or more.

    Each stay also pays for its boot, warm-up and drain; a gap shorter than those is bridged instead.
    """
    overhead = setup.boot + setup.warm_up + setup.drain
    total = 0.0
    for n in range(1, int(counts.max(initial=0)) + 1):
        turns = np.flatnonzero(np.diff(np.concatenate([[0], (counts >= n).astype(np.int8), [0]])))
        edges = np.minimum(turns * setup.evaluate_ticks, setup.ticks) * setup.tick
        begins, ends = edges[::2], edges[1::2]
        total += (ends - begins).sum() + np.minimum(begins[1:] - ends[:-1], overhead).sum()
        total += (setup.boot + setup.warm_up if begins[0] > 0 else 0.0) + (
            setup.drain if ends[-1] < setup.ticks * setup.tick else 0.0
        )
    return float(total)
