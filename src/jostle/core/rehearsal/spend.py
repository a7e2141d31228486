"""Money as it runs: what a group spends in each tick."""

import math

import numpy as np

from jostle.core.built.figure import spend
from jostle.core.built.play import bought, top_up, type_of
from jostle.core.engine.code import Billed
from jostle.core.engine.market import MARKET_STEP, UNIT
from jostle.core.engine.mix import SPOT
from jostle.core.plan.work import WorkKind
from jostle.core.rehearsal.rehearsal import Rehearsal
from jostle.core.rehearsal.strip import Floats


def spend_rate(rehearsal: Rehearsal) -> Floats:
    """Currency per second in each tick; what is billed beyond the end of an instance falls in its last tick."""
    setup, series, spells = rehearsal.result.setup, rehearsal.result.series, rehearsal.result.spells
    over = (spells["kind"] == Billed.RUNNING) & ~np.isnan(spells["end"])
    kinds = rehearsal.result.instances["kind"][spells["instance"]]
    over &= kinds == 0
    rate = spend(
        series["billed"],
        series["stopped"],
        spells["begin"][over],
        spells["end"][over],
        rehearsal.clock.tick,
        setup.kinds[:1],
        setup.of("price_group"),
        series["seated"] if setup.of("work") == WorkKind.SESSIONS else series["served"] / rehearsal.clock.tick,
        setup.of("price_each"),
    )

    for row in spells[spells["kind"] == Billed.DETACHED]:
        end = rehearsal.result.elapsed if np.isnan(row["end"]) else float(row["end"])
        ran = slice(round(float(row["begin"]) / rehearsal.clock.tick), round(end / rehearsal.clock.tick))
        rate[ran] += setup.kinds["price_detached"][int(rehearsal.result.instances["kind"][int(row["instance"])])]
    return rate + _beside(rehearsal) if kinds.any() else rate


def _beside(rehearsal: Rehearsal) -> Floats:
    """What instances of other kinds cost in each tick beside the price of the first."""
    result, tick = rehearsal.result, rehearsal.clock.tick
    setup = result.setup
    market, beside = setup.market.units, np.zeros(setup.ticks)
    steps = np.minimum((np.arange(setup.ticks) * tick / MARKET_STEP).astype(int), max(0, market.shape[2] - 1))
    spells = result.spells
    ends = np.where(np.isnan(spells["end"]), result.elapsed, spells["end"])
    for row, end in zip(spells, ends, strict=True):
        one = result.instances[int(row["instance"])]
        number = int(one["kind"])
        if number == 0 or row["kind"] == Billed.DETACHED:
            continue
        kind, ran = setup.kinds[number], slice(round(float(row["begin"]) / tick), round(end / tick))
        if row["kind"] != Billed.RUNNING:
            beside[ran] += kind.price_stopped - setup.kinds[0].price_stopped
            continue
        beside[ran] += kind.price - setup.kinds[0].price
        if bought(number) == SPOT:
            beside[ran] += market[type_of(number), int(one["zone"]), steps[ran]] / (UNIT * 3600)
        elif not np.isnan(row["end"]):
            beyond = top_up(end - float(row["begin"]), bool(kind.hourly), int(kind.least_micros))
            beside[max(0, math.ceil(end / tick) - 1)] += beyond * kind.price_machine / tick
    return beside
