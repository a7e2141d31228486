"""The spot market of one rehearsal: prices and reclaims by machine and zone, step by step. The same under every arrangement of a
seed: what a machine costs in a zone does not change because others are bought beside it."""

import math
from collections.abc import Sequence
from typing import Any, NamedTuple
from zlib import crc32

import numpy as np
from numpy.typing import NDArray

from jostle.core.compiled import leaf, maker
from jostle.core.draw import STREAM_GAP, STREAM_MARKET, STREAM_SHOCK, exponential, normal, stream_of
from jostle.core.plan.machine import Machine
from jostle.core.plan.spot_prices import SpotPrices

# Seconds for which a price holds
MARKET_STEP = 300.0
# Prices are so many of these an hour
UNIT = 10_000


class Market(NamedTuple):
    """By type of machine, zone and step; without steps where nothing is bought on it."""

    units: NDArray[np.int64]  # price of an hour, in ten-thousandths of the currency, shape (types, zones, steps)
    chances: NDArray[np.float64]  # that an instance is reclaimed within the step
    offered: NDArray[np.bool_]  # whether it takes launches


@leaf
def step_at(time: float, steps: int) -> int:
    """The step of the market, of so many, that holds at a time."""
    return min(int(time / MARKET_STEP + 1e-9), steps - 1)


def hourly(chances: Any) -> Any:
    """Chances of a reclaim within an hour, of those within a step; a number, or an array of any shape."""
    return 1.0 - (1.0 - chances) ** (3600 / MARKET_STEP)


def no_market(zones: int, types: int = 1) -> Market:
    shape = (types, zones, 0)
    return Market(np.zeros(shape, np.int64), np.zeros(shape), np.zeros(shape, np.bool_))


def market_of(
    machines: Sequence[tuple[str, Machine]],
    zones: list[str],
    first: float,
    seconds: float,
    seed: int,
    brought: SpotPrices | None = None,
) -> Market:
    """The market of machines, by name, over a span that begins at `first` (s since 1970). What is not sold is not offered; prices
    that were `brought` stand in place of drawn ones, and their machines are sold where they are known."""
    steps = math.ceil(seconds / MARKET_STEP) + 1
    shape = (len(machines), len(zones), steps)
    market = Market(np.ones(shape, np.int64), np.zeros(shape), np.zeros(shape, np.bool_))
    for m, (name, machine) in enumerate(machines):
        if (spot := machine.spot) is None:
            continue
        stays = math.exp(-MARKET_STEP / spot.speed)
        known = {} if brought is None else brought.of(name)
        for z, zone in enumerate(zones):
            level = float(machine.price_per_hour) * spot.level * spot.zones.get(zone, 1.0)
            market.offered[m, z] = not known or zone in known
            if zone in known:
                factors = known[zone].on(first, MARKET_STEP, steps) / level
            else:
                place = crc32(f"{name} {zone}".encode())
                factors = _course(seed, place, steps, spot.spread, stays)
                if spot.shocks is not None:
                    struck = _struck(seed, STREAM_SHOCK, place, steps, spot.shocks.every, spot.shocks.length)
                    factors = np.where(struck, factors * spot.shocks.times, factors)
                if spot.gaps is not None:
                    market.offered[m, z] = ~_struck(seed, STREAM_GAP, place, steps, spot.gaps.every, spot.gaps.length)
            market.units[m, z] = np.maximum(1, np.round(level * factors * UNIT))
            market.chances[m, z] = -np.expm1(-spot.reclaims * factors**spot.rises * MARKET_STEP / 3600)
    return market


@maker
def _struck(seed: int, number: int, place: int, steps: int, every: float, length: float) -> np.ndarray:
    """Whether each step lies in a stretch: gaps and lengths are exponential, of these means (s)."""
    found = np.zeros(steps, np.bool_)
    stream = stream_of(seed, number)
    at, k = every * exponential(stream, place), 1
    while at < steps * MARKET_STEP:
        end = at + length * exponential(stream, place + (k << 32))
        for step in range(int(at / MARKET_STEP), min(steps, int(math.ceil(end / MARKET_STEP)))):
            found[step] = True
        at, k = end + every * exponential(stream, place + ((k + 1) << 32)), k + 2
    return found


@maker
def _course(seed: int, place: int, steps: int, spread: float, stays: float) -> np.ndarray:
    """Factors around 1 that revert to it: exp of an autoregression of order 1, of mean 1 and the given spread. `place` tells
    apart what has a course of its own."""
    deep = math.sqrt(math.log(1.0 + spread * spread))
    found = np.empty(steps)
    stream = stream_of(seed, STREAM_MARKET)
    x = normal(stream, place)
    push = math.sqrt(1.0 - stays * stays)
    for k in range(steps):
        found[k] = math.exp(deep * x - 0.5 * deep * deep)
        x = stays * x + push * normal(stream, place + ((k + 1) << 32))
    return found
