"""Money as it runs: what a group spends in each tick."""

import math

import numpy as np

from jostle.core.compiled import maker
from jostle.core.engine.code import Billed
from jostle.core.engine.spell import top_up
from jostle.core.rehearsal.rehearsal import Rehearsal
from jostle.core.rehearsal.strip import Floats


def spend_rate(rehearsal: Rehearsal) -> Floats:
    """Currency per second in each tick; what is billed beyond the end of an instance falls in its last tick."""
    result, tick = rehearsal.result, rehearsal.clock.tick
    setup, series = result.setup, result.series
    rate = np.asarray(series["billed"] * setup.of("price"))
    rate += series["stopped"] * setup.of("price_stopped")
    rate += setup.of("price_group")
    hourly, least, price = setup.of("hourly"), setup.of("least_micros"), setup.of("price_machine")
    spells = result.spells
    over = (spells["kind"] == Billed.RUNNING) & ~np.isnan(spells["end"])
    return _with_ends(rate, spells["begin"][over], spells["end"][over], tick, hourly, least, price / tick)


@maker
def _with_ends(
    rate: np.ndarray, begin: np.ndarray, end: np.ndarray, tick: float, hourly: bool, least: int, price: float
) -> np.ndarray:
    for i in range(len(begin)):
        rate[max(0, math.ceil(end[i] / tick) - 1)] += top_up(end[i] - begin[i], hourly, least) * price
    return rate
