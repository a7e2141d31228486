"""The spot market of one rehearsal: prices and reclaims by machine and zone, step by step. The same under every arrangement of a
seed: what a machine costs in a zone does not change because others are bought beside it."""

import math
from collections.abc import Sequence
from typing import Any, NamedTuple
from zlib import crc32

import numpy as np

from jostle.core.built.figure import market_course, struck
from jostle.core.built.laid import FlagBlock, FloatBlock, LongBlock
from jostle.core.draw import STREAM_GAP, STREAM_SHOCK
from jostle.core.plan.machine import Machine
from jostle.core.plan.spot_prices import SpotPrices

# Seconds for which a price holds
MARKET_STEP = 300.0
# Prices are so many of these an hour
UNIT = 10_000


class Market(NamedTuple):
    """By type of machine, zone and step; without steps where nothing is bought on it."""

    units: LongBlock  # price of an hour, in ten-thousandths of the currency, shape (types, zones, steps)
    chances: FloatBlock  # that an instance is reclaimed within the step
    offered: FlagBlock  # whether it takes launches


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
                factors = market_course(seed, place, steps, spot.spread, stays)
                if spot.shocks is not None:
                    shocked = struck(seed, STREAM_SHOCK, place, steps, spot.shocks.every, spot.shocks.length)
                    factors = np.where(shocked, factors * spot.shocks.times, factors)
                if spot.gaps is not None:
                    market.offered[m, z] = ~struck(seed, STREAM_GAP, place, steps, spot.gaps.every, spot.gaps.length)
            market.units[m, z] = np.maximum(1, np.round(level * factors * UNIT))
            market.chances[m, z] = -np.expm1(-spot.reclaims * factors**spot.rises * MARKET_STEP / 3600)
    return market
