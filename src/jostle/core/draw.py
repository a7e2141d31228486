"""Chance by counting: a draw is a hash of seed, stream and index, and never of the order of calls.

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


# What all draws of a stream have in common
Stream = np.int64


@leaf
def stirred(z: np.uint64, part: np.uint64) -> np.uint64:
    """64 well-mixed bits with one part more (the finaliser of SplitMix64; Steele, Lea and Flood, 2014)."""
    z = (z ^ part) + np.uint64(0x9E3779B97F4A7C15)
    z = (z ^ (z >> np.uint64(30))) * np.uint64(0xBF58476D1CE4E5B9)
    z = (z ^ (z >> np.uint64(27))) * np.uint64(0x94D049BB133111EB)
    return z ^ (z >> np.uint64(31))


@leaf
def stream_of(seed: int, number: int) -> Stream:
    """The stream of a number: two thirds of the work of a draw, done once where many follow each other."""
    return np.int64(stirred(stirred(np.uint64(0), np.uint64(seed)), np.uint64(number)))


@leaf
def mixed(stream: Stream, index: int) -> np.uint64:
    """64 well-mixed bits of a stream."""
    return stirred(np.uint64(stream), np.uint64(index))


@leaf
def uniform(stream: Stream, index: int) -> float:
    """A number above 0 and below 1."""
    return (float(mixed(stream, index) >> np.uint64(11)) + 0.5) / 9007199254740992.0


@leaf
def normal(stream: Stream, index: int) -> float:
    """A standard normal number (Box and Muller, 1958), from draws 2*index and 2*index + 1."""
    radius = math.sqrt(-2.0 * math.log(uniform(stream, 2 * index)))
    return radius * math.cos(2.0 * math.pi * uniform(stream, 2 * index + 1))


@leaf
def bell(stream: Stream, index: int) -> float:
    """A number of mean 0 and standard deviation 1, nearly normal and never beyond 4.9: the sum of eight bytes of one draw."""
    z = mixed(stream, index)
    pairs = np.uint64(0x00FF00FF00FF00FF)
    total = ((z & pairs) + ((z >> np.uint64(8)) & pairs)) * np.uint64(0x0001000100010001)
    return (float(total >> np.uint64(48)) - 1020.0) * (1.0 / 209.0215299911493)


@leaf
def exponential(stream: Stream, index: int) -> float:
    """A number with mean 1 from the exponential distribution."""
    return -math.log(uniform(stream, index))


@leaf
def lognormal(stream: Stream, index: int, spread: float) -> float:
    """A lognormal number of mean 1 whose standard deviation is `spread`."""
    variance = math.log(1.0 + spread * spread)
    return math.exp(math.sqrt(variance) * normal(stream, index) - 0.5 * variance)


# Above this mean (and below its mirror) a count is drawn from a bell of the same mean and variance.
MANY = 60.0


@leaf
def poisson(stream: Stream, index: int, mean: float) -> int:
    """A Poisson count, by inversion (Devroye, Non-Uniform Random Variate Generation, 1986, X.3.3)."""
    if mean > MANY:
        return max(0, int(mean + math.sqrt(mean) * bell(stream, index) + 0.5))
    left = uniform(stream, index)
    chance = math.exp(-mean)
    count = 0
    while left > chance and count < 400:
        left -= chance
        count += 1
        chance *= mean / count
    return count


@leaf
def binomial(stream: Stream, index: int, trials: int, share: float, none: float) -> int:
    """How many of so many trials succeed, by inversion (Devroye, X.4.2).

    `share` is the chance of each, at most a half; `none` the chance that none succeeds, (1 - share) ** trials.
    """
    mean = trials * share
    if mean > MANY:
        drawn = int(round(mean + math.sqrt(mean * (1.0 - share)) * normal(stream, index)))
        return min(trials, max(0, drawn))
    left = uniform(stream, index)
    odds = share / (1.0 - share)
    chance = none
    count = 0
    while left > chance and count < trials:
        left -= chance
        count += 1
        chance *= odds * (trials - count + 1) / count
    return count
