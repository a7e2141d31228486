"""What a group can see of itself: the last samples of its meters, in a ring like the roll of a chart recorder."""

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from jostle.core.compiled import leaf
from jostle.core.decide.code import Fold


class Sight(NamedTuple):
    """Sample number k stands at place k modulo the length of the ring, and was taken at the end of period k.

    A reading that is not there is nan.
    """

    samples: NDArray[np.float32]  # shape (1 or 1 + zones, dials and outside series, ring)
    metered: NDArray[np.float32]  # mean number of serving instances behind each sample, shape (ring,)


@leaf
def published_by(time: float, delay: float, period: float) -> int:
    """How many samples are known at a time: those that were taken at least the delay ago."""
    return max(0, int(math.floor((time - delay) / period + 1e-9)))


@leaf
def ninetieth(samples: np.ndarray, begin: int, end: int, there: int) -> float:
    """The 90th percentile (nearest rank) of the samples that are there, found by counting."""
    rank = int(math.ceil(0.9 * there - 1e-9))
    found = math.inf
    for k in range(begin, end):
        value = samples[k % len(samples)]
        if math.isnan(value) or value >= found:
            continue
        below = 0
        for j in range(begin, end):
            if samples[j % len(samples)] <= value:
                below += 1
        if below >= rank:
            found = value
    return found


@leaf
def fold_window(samples: np.ndarray, published: int, window: int, fold: int) -> float:
    """The last `window` of the `published` samples as one value; nan where fewer than half of them are there."""
    there = 0
    total = 0.0
    low, high, latest = math.inf, -math.inf, math.nan
    begin = max(0, published - window)
    # A division would cost more than the fold itself.
    place = begin if begin < len(samples) else begin % len(samples)
    for _ in range(begin, published):
        value = samples[place]
        place = 0 if place + 1 == len(samples) else place + 1
        if math.isnan(value):
            continue
        there += 1
        total += value
        low, high, latest = min(low, value), max(high, value), value
    if fold == Fold.COUNT:
        return float(there)
    if 2 * there < window or there == 0:
        return math.nan
    if fold == Fold.AVERAGE:
        return total / there
    if fold == Fold.SUM:
        return total
    if fold == Fold.MINIMUM:
        return low
    if fold == Fold.P90:
        return ninetieth(samples, begin, published, there)
    return high if fold == Fold.MAXIMUM else latest


@leaf
def instances_metered(samples: np.ndarray, metered: np.ndarray, published: int, window: int) -> float:
    """Load-weighted number of instances behind a window: sum of n x m over sum of m; plain mean where m is zero."""
    load = total = count = 0.0
    there = 0
    begin = max(0, published - window)
    place = begin if begin < len(samples) else begin % len(samples)
    for _ in range(begin, published):
        value, number = samples[place], metered[place]
        place = 0 if place + 1 == len(samples) else place + 1
        if not math.isnan(value):
            load += value * number
            total += value
            count += number
            there += 1
    if total > 0.0:
        return load / total
    return count / there if there else 0.0
