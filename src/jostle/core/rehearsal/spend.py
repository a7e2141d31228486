"""Money as it runs: what a group spends in each tick."""

import math

import numpy as np

from jostle.core.compiled import maker
from jostle.core.engine.code import Billed
from jostle.core.engine.market import MARKET_STEP, UNIT
from jostle.core.engine.mix import SPOT
from jostle.core.engine.spell import top_up
from jostle.core.plan.work import WorkKind
from jostle.core.rehearsal.rehearsal import Rehearsal
from jostle.core.rehearsal.strip import Floats


def spend_rate(rehearsal: Rehearsal) -> Floats:
    """Currency per second in each tick; what is billed beyond the end of an instance falls in its last tick."""
    setup, series, spells = rehearsal.result.setup, rehearsal.result.series, rehearsal.result.spells
    over = (spells["kind"] == Billed.RUNNING) & ~np.isnan(spells["end"])
    if setup.of("spot"):
        return _with_spot(rehearsal)
    return _rate(
        series["billed"],
        series["stopped"],
        spells["begin"][over],
        spells["end"][over],
        rehearsal.clock.tick,
        setup.kinds[0],
        setup.of("price_group"),
        series["seated"] if setup.of("work") == WorkKind.SESSIONS else series["served"] / rehearsal.clock.tick,
        setup.of("price_each"),
    )


@maker
def _rate(
    billed: np.ndarray,
    stopped: np.ndarray,
    begin: np.ndarray,
    end: np.ndarray,
    tick: float,
    kind: np.record,
    price_group: float,
    pieces: np.ndarray,
    price_each: float,
) -> np.ndarray:
    rate = np.empty(len(billed))
    for k in range(len(billed)):
        rate[k] = billed[k] * kind.price + stopped[k] * kind.price_stopped + price_group + pieces[k] * price_each
    for i in range(len(begin)):
        beyond = top_up(end[i] - begin[i], kind.hourly, kind.least_micros)
        rate[max(0, math.ceil(end[i] / tick) - 1)] += beyond * kind.price_machine / tick
    return rate


def _with_spot(rehearsal: Rehearsal) -> Floats:
    """The same where some are spot, by the market's price of each tick."""
    result, tick = rehearsal.result, rehearsal.clock.tick
    setup = result.setup
    rate = np.full(setup.ticks, setup.of("price_group"), np.float64)
    pieces = result.series["seated"] if setup.of("work") == WorkKind.SESSIONS else result.series["served"] / tick
    rate += pieces * setup.of("price_each")
    steps = np.minimum((np.arange(setup.ticks) * tick / MARKET_STEP).astype(int), setup.market.units.shape[1] - 1)
    spells = result.spells
    ends = np.where(np.isnan(spells["end"]), result.elapsed, spells["end"])
    for row, end in zip(spells, ends, strict=True):
        one = result.instances[int(row["instance"])]
        first, last = int(float(row["begin"]) / tick), max(int(float(row["begin"]) / tick) + 1, math.ceil(end / tick))
        kind = setup.kinds[int(one["kind"])]
        if row["kind"] != Billed.RUNNING:
            rate[first:last] += kind.price_stopped
            continue
        rate[first:last] += kind.price
        if int(one["kind"]) == SPOT:
            rate[first:last] += setup.market.units[int(one["zone"]), steps[first:last]] / (UNIT * 3600)
        elif not np.isnan(row["end"]):
            rate[last - 1] += top_up(end - float(row["begin"]), kind.hourly, kind.least_micros) * kind.price_machine / tick
    return rate
