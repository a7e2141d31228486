"""What a group can see of itself: the last samples of its meters, in a ring like the roll of a chart recorder."""

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from jostle.core.compiled import hot, leaf
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


@hot
def place_of(begin: int, ring: int) -> int:
    """Place of a sample in the ring. A division, which an array that never wraps does without, would cost more than the fold."""
    return begin if begin < ring else begin % ring


@hot
def up_to(samples: np.ndarray, most: float) -> int:
    """How many are at most so much."""
    there = 0
    for value in samples:
        there += value <= most
    return there


@leaf
def ninetieth(samples: np.ndarray, place: int, end: int, there: int, low: float, high: float) -> float:
    """The 90th percentile (nearest rank) of the samples that are there, between `low` and `high`, found by halving."""
    rank = int(math.ceil(0.9 * there - 1e-9))
    last, rest = min(end, len(samples)), end - len(samples)
    low -= 1.0
    for _ in range(64):
        middle = float(np.float32(0.5 * (low + high)))
        number = up_to(samples[place:last], middle) + up_to(samples[: max(0, rest)], middle)
        if number < rank:
            low = middle
        else:
            high = middle
        if number == rank or float(np.float32(0.5 * (low + high))) == middle:
            break
    found = -math.inf
    for turn in range(2):
        for k in range(place if turn == 0 else 0, last if turn == 0 else rest):
            if samples[k] <= high:
                found = max(found, samples[k])
    return found


@leaf
def fold_window(samples: np.ndarray, published: int, window: int, fold: int) -> float:
    """The last `window` of the `published` samples as one value; nan where fewer than half of them are there."""
    there = 0
    total = 0.0
    low, high, latest = math.inf, -math.inf, math.nan
    begin = max(0, published - window)
    place = place_of(begin, len(samples))
    end = place + published - begin
    # What lies beyond the end of the ring goes on at its beginning.
    for turn in range(2):
        first, last = (place, min(end, len(samples))) if turn == 0 else (0, end - len(samples))
        for k in range(first, last):
            value = samples[k]
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
        return ninetieth(samples, place, end, there, low, high)
    return high if fold == Fold.MAXIMUM else latest


@leaf
def instances_metered(samples: np.ndarray, metered: np.ndarray, published: int, window: int) -> float:
    """Load-weighted number of instances behind a window: sum of n x m over sum of m; plain mean where m is zero."""
    load = total = count = 0.0
    there = 0
    begin = max(0, published - window)
    place = place_of(begin, len(samples))
    end = place + published - begin
    for turn in range(2):
        first, last = (place, min(end, len(samples))) if turn == 0 else (0, end - len(samples))
        for k in range(first, last):
            if not math.isnan(samples[k]):
                load += samples[k] * metered[k]
                total += samples[k]
                count += metered[k]
                there += 1
    if total > 0.0:
        return load / total
    return count / there if there else 0.0
