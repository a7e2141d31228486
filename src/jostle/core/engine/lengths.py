"""How long services take that are not exponential: all alike, or more or less uneven."""

import math

import numpy as np
from numpy.typing import NDArray

from jostle.core.compiled import leaf

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
