"""An independent model of a service: request by request, each instance with a line of its own and several clerks.

It shares nothing with the engine. In a line where the first to come is the first to be served, whoever comes at t waits
until the earliest clerk is free (Kiefer and Wolfowitz, 1955); whoever would wait longer than the patience gives up when it
runs out.
"""

import math
from dataclasses import dataclass

import numba
import numpy as np

from tests.independent.lengths import drawn

CHANCE, TURN, LEAST = 0, 1, 2
MOST_PRESENT = 4096


@dataclass(frozen=True)
class Seen:
    """What a run saw of the requests that came after the first part of it."""

    stays: np.ndarray  # s, of those answered
    waits: np.ndarray  # s, of those answered
    came: int
    gave_up: int

    def quantile(self, share: float) -> float:
        """Seconds within which this share of all that came was answered."""
        place = share * self.came
        return float(np.partition(self.stays, int(place))[int(place)]) if place < len(self.stays) else math.inf

    @property
    def failed(self) -> float:
        return self.gave_up / self.came


def steady(
    instances: int,
    clerks: int,
    load: float,
    service: float = 1.0,
    patience: float = 1e12,
    way: int = CHANCE,
    unevenness: float = 1.0,
    number: int = 400_000,
    seed: int = 1,
    exponential: bool = True,
) -> Seen:
    """A steady load; the first tenth of the requests is not counted."""
    chance = np.random.default_rng(seed)
    gaps = chance.exponential(service / (instances * clerks * load), number)
    return _seen(np.cumsum(gaps), instances, clerks, service, patience, way, unevenness, chance, exponential, number // 10)


def course(
    rate: np.ndarray,
    step: float,
    instances: int,
    clerks: int,
    service: float,
    patience: float,
    way: int = CHANCE,
    seed: int = 1,
) -> Seen:
    """Arrivals by chance at a rate (1/s) that changes every `step` seconds."""
    chance = np.random.default_rng(seed)
    counts = chance.poisson(rate * step)
    times = np.sort(np.repeat(np.arange(len(rate)) * step, counts) + chance.uniform(0, step, counts.sum()))
    return _seen(times, instances, clerks, service, patience, way, 1.0, chance, True, 0)


def _seen(times, instances, clerks, service, patience, way, unevenness, chance, exponential, first):
    lengths = drawn(chance, service, unevenness, len(times), exponential)
    waits = _waits(times, lengths, instances, clerks, patience, way, chance.integers(0, 2**62, len(times)))[first:]
    answered = ~np.isnan(waits)
    return Seen((waits + lengths[first:])[answered], waits[answered], len(waits), int((~answered).sum()))


@numba.njit(cache=True)
def _waits(times, lengths, instances, clerks, patience, way, draws):
    """The wait of each; nan where it gave up."""
    free = np.zeros((instances, clerks))
    leaves = np.empty((instances, MOST_PRESENT))
    present = np.zeros(instances, np.int64)
    found = np.empty(len(times))
    for r in range(len(times)):
        t = times[r]
        if way == 0:
            i = draws[r] % instances
        elif way == 1:
            i = r % instances
        else:
            i, fewest, ties = 0, 1 << 60, 0
            for j in range(instances):
                kept = 0
                for m in range(present[j]):
                    if leaves[j, m] > t:
                        leaves[j, kept] = leaves[j, m]
                        kept += 1
                present[j] = kept
                if kept < fewest:
                    i, fewest, ties = j, kept, 1
                elif kept == fewest:
                    ties += 1
                    if (draws[r] >> 7) % ties == 0:
                        i = j
        c = 0
        for m in range(1, clerks):
            if free[i, m] < free[i, c]:
                c = m
        wait = max(0.0, free[i, c] - t)
        if wait > patience:
            found[r] = math.nan
            leave = t + patience
        else:
            found[r] = wait
            free[i, c] = t + wait + lengths[r]
            leave = free[i, c]
        if way == 2:
            leaves[i, present[i]] = leave
            present[i] += 1
    return found
