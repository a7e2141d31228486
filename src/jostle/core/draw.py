"""Chance by counting: a draw is a hash of (seed, stream, index) and never of the order of calls.

Like numbered envelopes sealed beforehand: whoever opens number 17 of the noise finds the same thing inside, whatever
was opened before. So two arrangements under one seed meet the same week.
"""

import math

import numpy as np

from jostle.core.compiled import leaf

STREAM_NOISE, STREAM_BOOT, STREAM_FAULT, STREAM_ARRIVE, STREAM_LEAVE = 1, 2, 3, 4, 5
# Each may be followed by 15 streams of its own
STREAM_BURN, STREAM_FINISH, STREAM_RETURN, STREAM_ASK, STREAM_MARKET, STREAM_RECLAIM = 64, 128, 192, 256, 320, 336
STREAM_SHOCK, STREAM_GAP, STREAM_ERROR = 352, 368, 384


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


@leaf
def bell(seed: int, stream: int, index: int) -> float:
    """A number of mean 0 and standard deviation 1, nearly normal and never beyond 4.9: the sum of eight bytes of one draw."""
    z = mixed(seed, stream, index)
    pairs = np.uint64(0x00FF00FF00FF00FF)
    total = ((z & pairs) + ((z >> np.uint64(8)) & pairs)) * np.uint64(0x0001000100010001)
    return (float(total >> np.uint64(48)) - 1020.0) * (1.0 / 209.0215299911493)


@leaf
def exponential(seed: int, stream: int, index: int) -> float:
    """A number with mean 1 from the exponential distribution."""
    return -math.log(uniform(seed, stream, index))


@leaf
def lognormal(seed: int, stream: int, index: int, spread: float) -> float:
    """A lognormal number of mean 1 whose standard deviation is `spread`."""
    variance = math.log(1.0 + spread * spread)
    return math.exp(math.sqrt(variance) * normal(seed, stream, index) - 0.5 * variance)


# Above this mean (and below its mirror) a count is drawn from a bell of the same mean and variance.
MANY = 60.0


@leaf
def poisson(seed: int, stream: int, index: int, mean: float) -> int:
    """A Poisson count, by inversion (Devroye, Non-Uniform Random Variate Generation, 1986, X.3.3)."""
    if mean > MANY:
        return max(0, int(mean + math.sqrt(mean) * bell(seed, stream, index) + 0.5))
    left = uniform(seed, stream, index)
    chance = math.exp(-mean)
    count = 0
    while left > chance and count < 400:
        left -= chance
        count += 1
        chance *= mean / count
    return count


@leaf
def binomial(seed: int, stream: int, index: int, trials: int, share: float, none: float) -> int:
    """How many of so many trials succeed, by inversion (Devroye, X.4.2).

    `share` is the chance of each, at most a half; `none` the chance that none succeeds, (1 - share) ** trials.
    """
    mean = trials * share
    if mean > MANY:
        drawn = int(round(mean + math.sqrt(mean * (1.0 - share)) * normal(seed, stream, index)))
        return min(trials, max(0, drawn))
    left = uniform(seed, stream, index)
    odds = share / (1.0 - share)
    chance = none
    count = 0
    while left > chance and count < trials:
        left -= chance
        count += 1
        chance *= odds * (trials - count + 1) / count
    return count
