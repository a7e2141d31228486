"""An independent model of a service: request by request, each instance with a line of its own and several clerks.

It shares nothing with the engine. In a line where the first to come is the first to be served, whoever comes at t waits
until the earliest clerk is free (Kiefer and Wolfowitz, 1955); whoever would wait longer than the patience gives up when it
runs out.
"""

import math
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import pyximport

from tests.independent.lengths import drawn

pyximport.install(build_dir=Path(__file__).parent / ".pyxbld", language_level=3)

from tests.independent.waits import waits_of  # noqa: E402

CHANCE, TURN, LEAST = 0, 1, 2


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
    waits = waits_of(times, lengths, instances, clerks, patience, way, chance.integers(0, 2**62, len(times)))[first:]
    answered = ~np.isnan(waits)
    return Seen((waits + lengths[first:])[answered], waits[answered], len(waits), int((~answered).sum()))


def worse_rounds(factor: float, load: float, rounds: int, each: int, beside: int, trials: int, seed: int = 1) -> np.ndarray:
    """At which of so many rounds the 95th percentile of `each` answers of one instance whose requests take `factor` times as
    long is above that of `beside` others: shape (trials, rounds), request by request."""
    # The first tenth is not counted
    number = (trials * rounds + rounds) * each * 10 // 9
    own = steady(1, 2, load * factor, 0.1 * factor, number=number, seed=seed).stays
    there = [steady(1, 2, load, 0.1, number=number, seed=seed + 1 + n).stays for n in range(beside)]
    shape = (trials, rounds, each)
    ours = np.quantile(own[: trials * rounds * each].reshape(shape), 0.95, axis=2)
    theirs = np.quantile(np.concatenate([one[: trials * rounds * each].reshape(shape) for one in there], axis=2), 0.95, axis=2)
    return ours > theirs
