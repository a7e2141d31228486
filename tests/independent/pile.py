"""An independent model of workers at one pile of jobs: each free worker takes the oldest."""

import heapq

import numpy as np

from tests.independent.lengths import drawn


def waits(workers: int, rate: float, length: float, until: float, unevenness: float = 1.0, seed: int = 1) -> np.ndarray:
    """How long each job waited (s), in the order of their coming; jobs come by chance at a rate (1/s)."""
    chance = np.random.default_rng(seed)
    times = np.cumsum(chance.exponential(1 / rate, int(rate * until * 1.2 + 100)))
    times = times[times < until]
    lengths = drawn(chance, length, unevenness, len(times))
    free = [0.0] * workers
    found = np.empty(len(times))
    for n, (time, took) in enumerate(zip(times, lengths, strict=True)):
        begin = max(time, heapq.heappop(free))
        found[n] = begin - time
        heapq.heappush(free, begin + took)
    return found
