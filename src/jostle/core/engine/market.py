"""The spot market of one rehearsal: prices and reclaims by zone, step by step. The same under every arrangement of a seed."""

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from jostle.core.compiled import leaf, maker
from jostle.core.draw import STREAM_MARKET, normal
from jostle.core.plan.machine import Machine

# Seconds for which a price holds
MARKET_STEP = 300.0
# Prices are so many of these an hour
UNIT = 10_000


class Market(NamedTuple):
    """By zone and step; without steps where nothing is bought on it."""

    units: NDArray[np.int64]  # price of an hour, in ten-thousandths of the currency, shape (zones, steps)
    chances: NDArray[np.float64]  # that an instance is reclaimed within the step
    offered: NDArray[np.bool_]  # whether it takes launches


@leaf
def step_at(time: float, steps: int) -> int:
    """The step of the market, of so many, that holds at a time."""
    return min(int(time / MARKET_STEP + 1e-9), steps - 1)


def no_market(zones: int) -> Market:
    return Market(np.zeros((zones, 0), np.int64), np.zeros((zones, 0)), np.zeros((zones, 0), np.bool_))


def market_of(machine: Machine, zones: list[str], first: float, seconds: float, seed: int) -> Market:
    """The market of a machine over a span that begins at `first` (s since 1970)."""
    spot = machine.spot
    steps = math.ceil(seconds / MARKET_STEP) + 1
    if spot is None:
        return no_market(len(zones))
    factors = np.array([_course(seed, z, steps, spot.spread, math.exp(-MARKET_STEP / spot.speed)) for z in range(len(zones))])
    level = float(machine.price_per_hour) * spot.level * np.array([spot.zones.get(zone, 1.0) for zone in zones])
    units = np.maximum(1, np.round(level[:, None] * factors * UNIT)).astype(np.int64)
    rates = spot.reclaims * factors**spot.rises
    chances = -np.expm1(-rates * MARKET_STEP / 3600)
    return Market(units, chances, np.ones_like(units, np.bool_))


@maker
def _course(seed: int, zone: int, steps: int, spread: float, stays: float) -> np.ndarray:
    """Factors around 1 that revert to it: exp of an autoregression of order 1, of mean 1 and the given spread."""
    deep = math.sqrt(math.log(1.0 + spread * spread))
    found = np.empty(steps)
    x = normal(seed, STREAM_MARKET, zone)
    push = math.sqrt(1.0 - stays * stays)
    for k in range(steps):
        found[k] = math.exp(deep * x - 0.5 * deep * deep)
        x = stays * x + push * normal(seed, STREAM_MARKET, 64 * (k + 1) + zone)
    return found
