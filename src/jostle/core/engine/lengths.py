"""How long services take that are not exponential: all alike, or more or less uneven."""

import math

import numpy as np
from numpy.typing import NDArray

POINTS = 40
# Part of a lognormal's third moment, beyond the least that there can be, with which waits agree best
SKEWNESS = 0.45


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
    # Takes half a second to load, which most plans need not wait for
    from scipy import special

    if unevenness <= 1.0:
        shape, scale = 1 / unevenness, mean * unevenness
        found[0] = scale * special.gammaincinv(shape, shares)
        below = special.gammainc(shape + 1, found[0, :-1] / scale)
    else:
        spread = math.sqrt(math.log(1.0 + unevenness))
        found[0] = mean * math.exp(-0.5 * spread**2) * np.exp(spread * special.ndtri(shares))
        with np.errstate(divide="ignore"):
            below = special.ndtr(np.log(found[0, :-1] / mean) / spread - 0.5 * spread)
    found[1] = 1.0 - shares
    part = np.diff(np.append(below, 1.0))
    weight = np.diff(np.append(shares[:-1], 1.0))
    found[2, :-1], found[3, :-1] = mean * part / weight, weight
    return found


def done_within(unevenness: float, mean: float, within: float) -> float:
    """The share of services that are done within a time (s), of the same kinds."""
    if within <= 0.0:
        return 0.0
    if unevenness == 0.0:
        return float(mean <= within)
    from scipy import special

    if unevenness <= 1.0:
        return float(special.gammainc(1 / unevenness, within / (mean * unevenness)))
    spread = math.sqrt(math.log(1.0 + unevenness))
    return float(special.ndtr(math.log(within / mean) / spread + 0.5 * spread))


def time_of(unevenness: float, mean: float, share: float) -> float:
    """The time (s) within which so many of the services are done: the inverse of `done_within`."""
    if unevenness == 0.0:
        return mean
    from scipy import special

    if unevenness <= 1.0:
        return float(mean * unevenness * special.gammaincinv(1 / unevenness, share))
    spread = math.sqrt(math.log(1.0 + unevenness))
    return float(mean * math.exp(spread * special.ndtri(share) - 0.5 * spread**2))
