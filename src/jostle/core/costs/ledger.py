"""The ledger: what was paid for in each hour, and how many instances there were, in exact decimals.

An amount belongs to the hour in which it came to be owed: a second to the hour in which it ran, a started hour, or the least that
is paid for, to that in which it began. The hours' amounts so add up to the bills, to the last digit.
"""

from dataclasses import dataclass
from datetime import date, datetime, timedelta
from decimal import Decimal
from zoneinfo import ZoneInfo

import numpy as np
from numpy.typing import NDArray

from jostle.core.costs.market_price import MarketPrice
from jostle.core.costs.price import group_cost
from jostle.core.costs.traffic import pieces_until
from jostle.core.engine.code import Billed
from jostle.core.engine.compile import Crew
from jostle.core.engine.mix import SPOT
from jostle.core.engine.result import Result
from jostle.core.plan.clock import Clock
from jostle.core.plan.tariff import HOUR_MICROS, MICROS, paid_micros


@dataclass(frozen=True)
class Entry:
    """One amount of one hour. `instance` is counted from 0, None for what the group pays for itself; `seconds` are those that it
    ran or stood, told once, with the machine."""

    hour: int
    instance: int | None
    zone: str
    version: int
    overflow: bool
    what: str
    seconds: Decimal
    amount: Decimal
    spot: bool = False


@dataclass(frozen=True)
class Hour:
    """What an hour was like. Counts are least, mean and most over it; `begin` and `end` are s since 1970."""

    begin: float
    end: float
    serving: tuple[int, float, int]
    billed: tuple[int, float, int]
    stopped: tuple[int, float, int]
    demand: float
    served: float
    failed: float
    short_minutes: float

    def day(self, zone: ZoneInfo) -> date:
        """The day on which it begins, on the clock of a zone."""
        return datetime.fromtimestamp(self.begin, zone).date()


@dataclass(frozen=True)
class Ledger:
    """Of one group, from the first hour on; the last is cut where the record ends."""

    hours: list[Hour]
    entries: list[Entry]

    def total(self) -> Decimal:
        return sum((entry.amount for entry in self.entries), Decimal())


def hour_edges(clock: Clock, until: float) -> NDArray[np.float64]:
    """Where hours begin on the wall clock of the plan, and the end, s since 1970: each day has its own number of them."""
    edges, day = [clock.first], clock.at(clock.first).replace(hour=0, minute=0, second=0, microsecond=0, tzinfo=None)
    while edges[-1] < until:
        begin, day = _epoch(day, clock), day + timedelta(days=1)
        edges += [t for t in np.arange(begin, _epoch(day, clock), 3600.0).tolist() if edges[-1] < t]
    return np.array([*(edge for edge in edges if edge < until), until])


def _epoch(moment: datetime, clock: Clock) -> float:
    return moment.replace(tzinfo=clock.zone).timestamp()


def ledger(result: Result, crew: Crew, clock: Clock) -> Ledger:
    """The ledger of what has been played so far; there is no hour yet where nothing has."""
    if result.elapsed <= 0:
        return Ledger([], [])
    edges = hour_edges(clock, clock.first + result.elapsed) - clock.first
    return Ledger(_hours(result, clock, edges), _entries(result, crew, edges))


def _hours(result: Result, clock: Clock, edges: NDArray[np.float64]) -> list[Hour]:
    ticks = np.round(edges / clock.tick).astype(int)
    series, arrivals = result.series, result.arrivals
    found = []
    for number in range(len(edges) - 1):
        part = slice(ticks[number], ticks[number + 1])
        rows = series[part]
        if not len(rows):
            continue
        serving, billed, stopped = (
            (int(rows[field].min()), float(rows[field].mean()), int(rows[field].max()))
            for field in ("serving", "billed", "stopped")
        )
        found.append(
            Hour(
                begin=clock.first + float(edges[number]),
                end=clock.first + float(edges[number + 1]),
                serving=serving,
                billed=billed,
                stopped=stopped,
                demand=float(arrivals[part].sum()),
                served=float(rows["served"].sum(dtype=np.float64)),
                failed=float(rows["failed"].sum(dtype=np.float64)),
                short_minutes=float(rows["short"].sum()) * clock.tick / 60,
            )
        )
    return found


def _entries(result: Result, crew: Crew, edges: NDArray[np.float64]) -> list[Entry]:
    tariff, instances, spells = crew.tariff, result.instances, result.spells
    market = MarketPrice(result.setup) if result.setup.of("spot") else None
    ends = np.where(np.isnan(spells["end"]), result.elapsed, spells["end"])
    micros = np.round(edges * MICROS).astype(np.int64).tolist()
    found: list[Entry] = []
    for row, end in zip(spells, ends.tolist(), strict=True):
        number, begin = int(row["instance"]), float(row["begin"])
        one = instances[number]
        about = number, crew.launch.zones[int(one["zone"])], int(one["version"]), bool(one["overflow"])
        lasted = round((end - begin) * MICROS)
        spot = market is not None and int(one["kind"]) == SPOT
        # What begins at the very end has cost the least that is paid for already.
        first = min(len(edges) - 2, max(0, int(np.searchsorted(edges, begin, side="right")) - 1))
        last = min(len(edges) - 2, max(first, int(np.searchsorted(edges, end, side="left")) - 1))
        start, before, paid = round(begin * MICROS), 0, 0
        for hour in range(first, last + 1):
            until = lasted if hour == last else max(0, min(lasted, micros[hour + 1] - start))
            micros_here = Decimal(until - before)
            seconds = micros_here / MICROS
            if row["kind"] == Billed.RUNNING:
                owed = paid_micros(until, tariff.hourly, tariff.least_micros)
                machine = Decimal(owed - paid) * tariff.machine / HOUR_MICROS
                if market is not None and spot:
                    machine = market.amount(int(one["zone"]), start + before, start + until)
                found.append(Entry(hour, *about, "machine", seconds, machine, spot))
                paid = owed
                _add(found, hour, about, "address", micros_here * tariff.address / HOUR_MICROS, spot)
            else:
                found.append(Entry(hour, *about, "stopped machine", seconds, micros_here * tariff.stopped / HOUR_MICROS))
            _add(found, hour, about, "disk", micros_here * tariff.disk / HOUR_MICROS, spot)
            before = until
    for hour in range(len(edges) - 1):
        _add(found, hour, _OWN, "load balancer", group_cost(float(edges[hour + 1] - edges[hour]), crew))
    if kinds := crew.traffics:
        pieces = pieces_until(result, np.round(edges / result.setup.tick).astype(int).tolist()).tolist()
        for kind in kinds:
            moved = [kind.moved(many) for many in pieces]
            for hour in range(len(edges) - 1):
                _add(found, hour, _OWN, kind.what, kind.cost(moved[hour + 1] - moved[hour]))
    return found


_OWN = (None, "", 0, False)


def _add(
    found: list[Entry], hour: int, about: tuple[int | None, str, int, bool], what: str, amount: Decimal, spot: bool = False
) -> None:
    if amount:
        found.append(Entry(hour, *about, what, Decimal(), amount, spot))
