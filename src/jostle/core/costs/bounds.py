"""The two bounds of cost for one demand: always-peak and foresight.

Always-peak is the careful neighbour who leaves every light on: the smallest fixed count that keeps the promises.
Foresight is the one who knows the week beforehand: it has, minute by minute, just the count that one utilisation
asks for, the highest at which the promises still hold over the whole span, and pays for boots and drains.
"""

from dataclasses import dataclass
from decimal import Decimal

import numpy as np
from numpy.typing import NDArray

from jostle.core.costs.price import bill
from jostle.core.engine.queue import LOADS, SPAN, TOP_LOAD, stay_beyond
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
    """The smallest fixed count that keeps the promises; found by halving, since more is never worse."""
    high = max(1, int(np.ceil(setup.rate.max() / setup.capacity)))
    while not _keeps(setup, high, promises):
        high *= 2
        if high > MOST:
            return None
    low = 0
    while high - low > 1:
        middle = (low + high) // 2
        low, high = (low, middle) if _keeps(setup, middle, promises) else (middle, high)
    return high


def foresight_seconds(setup: Setup, promises: list[AnswersPromise]) -> float | None:
    """Billed seconds with perfect knowledge, or None where no utilisation keeps the promises."""
    share_late = [(_late_by_load(setup, p.within), 1 - p.share) for p in promises]

    def kept(load: float) -> bool:
        counts = _counts(setup, load)
        busy = np.divide(setup.rate, counts * setup.capacity, out=np.zeros_like(setup.rate), where=counts > 0)
        positions = -np.log(1 - np.minimum(busy, TOP_LOAD)) / SPAN * (LOADS - 1)
        total = setup.rate.sum()
        return all(
            (setup.rate * np.interp(positions, np.arange(LOADS), late)).sum() <= allowed * total for late, allowed in share_late
        )

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
    return _billed(setup, _counts(setup, low))


def _late_by_load(setup: Setup, within: float) -> NDArray[np.float64]:
    stay = within - setup.base_latency
    return np.array([stay_beyond(stay, setup.waits[0, i], setup.waits[1, i], setup.service_rate) for i in range(LOADS)])


def _counts(setup: Setup, load: float) -> NDArray[np.int64]:
    """Count of each tick at this utilisation, the same through each interval between evaluations."""
    step = setup.evaluate_ticks
    edges = np.arange(0, setup.ticks, step)
    peak = np.maximum.reduceat(setup.rate, edges)
    counts = np.ceil(peak / (setup.capacity * load) - 1e-9).astype(np.int64)
    return np.repeat(counts, step)[: setup.ticks]


def _billed(setup: Setup, counts: NDArray[np.int64]) -> float:
    """Seconds billed for a path of counts, the n-th instance being there while the count is n or more.

    Each stay also pays for its boot, warm-up and drain; a gap shorter than those is bridged instead.
    """
    overhead = setup.boot + setup.warm_up + setup.drain
    total = 0.0
    for n in range(1, int(counts.max(initial=0)) + 1):
        edges = np.flatnonzero(np.diff(np.concatenate([[0], (counts >= n).astype(np.int8), [0]]))) * setup.tick
        begins, ends = edges[::2], edges[1::2]
        total += (ends - begins).sum() + np.minimum(begins[1:] - ends[:-1], overhead).sum()
        total += (setup.boot + setup.warm_up if begins[0] > 0 else 0.0) + (
            setup.drain if ends[-1] < setup.ticks * setup.tick else 0.0
        )
    return float(total)
