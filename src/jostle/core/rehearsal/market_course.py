"""The spot market over a rehearsal: what it asks, how risky it is, and what those paid and risked who ran there."""

from typing import Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray

from jostle.core.built.play import type_of
from jostle.core.decide.code import Reason
from jostle.core.engine.code import Billed, EventKind
from jostle.core.engine.market import MARKET_STEP, UNIT, hourly
from jostle.core.engine.mix import are_spot, types_of
from jostle.core.rehearsal.rehearsal import Rehearsal
from jostle.core.rehearsal.strip import Floats


class MarketCourse(NamedTuple):
    """By tick: the least and the most of all machines and zones that are sold, and the mean over the instances that run there,
    nan where none does."""

    low: Floats
    high: Floats
    mean: Floats


def market_course(rehearsal: Rehearsal, what: Literal["price", "risk"]) -> MarketCourse:
    """Prices are shares of the on-demand price of their machine, risks chances of a reclaim within an hour."""
    setup = rehearsal.result.setup
    market = setup.market
    if what == "price":
        dear = setup.kinds.view(np.ndarray)["price_machine"][::2, None, None] * 3600 * UNIT
        values = market.units / dear
    else:
        values = hourly(market.chances)
    values = np.where(market.offered, values, np.nan).reshape(-1, market.units.shape[2])
    steps = np.minimum((np.arange(setup.ticks) * setup.tick / MARKET_STEP + 1e-9).astype(int), values.shape[1] - 1)
    sold = ~np.isnan(values).all(axis=0)
    low, high = (np.full(values.shape[1], np.nan) for _ in range(2))
    low[sold], high[sold] = np.nanmin(values[:, sold], axis=0), np.nanmax(values[:, sold], axis=0)
    there = _running(rehearsal)
    spent = np.zeros(setup.ticks)
    for place in np.flatnonzero(there.any(axis=1)):
        spent += np.where(there[place] > 0, there[place] * np.nan_to_num(values[place])[steps], 0.0)
    number = there.sum(axis=0)
    mean = np.where(number > 0, spent / np.maximum(number, 1), np.nan)
    return MarketCourse(low[steps], high[steps], mean)


def _running(rehearsal: Rehearsal) -> NDArray[np.int64]:
    """How many spot instances run in each tick, by machine and zone, shape (types * zones, ticks)."""
    result = rehearsal.result
    setup, spells = result.setup, result.spells
    rows = result.instances[spells["instance"]]
    spot = (spells["kind"] == Billed.RUNNING) & are_spot(rows["kind"])
    ends = np.where(np.isnan(spells["end"]), result.elapsed, spells["end"])[spot]
    place = (types_of(rows["kind"]) * setup.market.units.shape[1] + rows["zone"])[spot].astype(int)
    changes = np.zeros((setup.market.units.shape[0] * setup.market.units.shape[1], setup.ticks + 1), np.int64)
    first, last = (np.clip(np.round(at / setup.tick).astype(int), 0, setup.ticks) for at in (spells["begin"][spot], ends))
    np.add.at(changes, (place, first), 1)
    np.add.at(changes, (place, last), -1)
    return np.cumsum(changes, axis=1)[:, :-1]


class Worst(NamedTuple):
    """The dearest price paid, as a share of on demand, and the highest chance of a reclaim within an hour that an instance ran
    under; and the time (s) in which fewer served than were wanted since the market had taken some back."""

    price: float
    risk: float
    missing: float


def worst_of_market(rehearsal: Rehearsal) -> Worst:
    result = rehearsal.result
    setup, spells = result.setup, result.spells
    price = risk = 0.0
    dear = setup.kinds.view(np.ndarray)["price_machine"][::2] * 3600 * UNIT
    kinds, zones = (result.instances.view(np.ndarray)[field] for field in ("kind", "zone"))
    for row in spells.view(np.ndarray)[(spells["kind"] == Billed.RUNNING) & are_spot(kinds)[spells["instance"]]]:
        t, z = type_of(int(kinds[row["instance"]])), int(zones[row["instance"]])
        end = float(row["end"]) if row["end"] == row["end"] else result.elapsed
        steps = slice(int(row["begin"] / MARKET_STEP + 1e-9), int(np.ceil(end / MARKET_STEP - 1e-9)))
        price = max(price, float(setup.market.units[t, z, steps].max(initial=0)) / float(dear[t]))
        risk = max(risk, float(setup.market.chances[t, z, steps].max(initial=0.0)))
    return Worst(price, hourly(risk), _missing(rehearsal))


def _missing(rehearsal: Rehearsal) -> float:
    """Each time that some were taken back, until as many serve again as are wanted."""
    result = rehearsal.result
    under = np.asarray(result.series["units"] < result.series["desired"])
    events = result.events
    back = events[(events["kind"] == EventKind.INSTANCE_LEAVES) & (events["before"] == Reason.RECLAIMED)]
    enough = np.flatnonzero(~under)
    ticks, counted = 0, -1
    for time in back["time"]:
        first = max(int(time / result.setup.tick + 1e-9), counted)
        after = int(np.searchsorted(enough, first))
        last = int(enough[after]) if after < len(enough) else len(under)
        ticks, counted = ticks + max(0, last - first), max(counted, last)
    return ticks * result.setup.tick
