"""Chance by counting: a draw is a hash of (seed, stream, index) and never of the order of calls.

Like numbered envelopes sealed beforehand: whoever opens number 17 of the noise finds the same thing inside, whatever
was opened before. So two arrangements under one seed meet the same week.
"""

import math

import numpy as np

from jostle.core.compiled import leaf

STREAM_NOISE = 1


@leaf
def mixed(seed: int, stream: int, index: int) -> np.uint64:
    """64 well-mixed bits (the finaliser of SplitMix64; Steele, Lea and Flood, 2014), applied to each part in turn."""
    z = np.uint64(0)
    for part in (np.uint64(seed), np.uint64(stream), np.uint64(index)):
        z = (z ^ part) + np.uint64(0x9E3779B97F4A7C15)
        z = (z ^ (z >> np.uint64(30))) * np.uint64(0xBF58476D1CE4E5B9)
        z = (z ^ (z >> np.uint64(27))) * np.uint64(0x94D049BB133111EB)
        z = z ^ (z >> np.uint64(31))
    return z


@leaf
def uniform(seed: int, stream: int, index: int) -> float:
    """A number above 0 and below 1."""
    return (float(mixed(seed, stream, index) >> np.uint64(11)) + 0.5) / 9007199254740992.0


@leaf
def normal(seed: int, stream: int, index: int) -> float:
    """A standard normal number (Box and Muller, 1958), from draws 2*index and 2*index + 1."""
    radius = math.sqrt(-2.0 * math.log(uniform(seed, stream, 2 * index)))
    return radius * math.cos(2.0 * math.pi * uniform(seed, stream, 2 * index + 1))
