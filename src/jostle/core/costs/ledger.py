"""The ledger: what was paid for in each hour, and how many instances there were, in exact decimals.

An amount belongs to the hour in which it came to be owed: a second to the hour in which it ran, a started hour, or the least that
is paid for, to that in which it began. Each amount is told to the billionth of a billionth, and is the same whoever adds them up.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from datetime import date, datetime, timedelta
from decimal import Context, Decimal
from typing import NamedTuple
from zoneinfo import ZoneInfo

import numpy as np
from numpy.typing import NDArray

from jostle.core.built.play import bought, paid_micros, type_of
from jostle.core.costs.market_price import MarketPrice
from jostle.core.costs.part import DETACHED, STOPPED, Part
from jostle.core.costs.price import group_cost
from jostle.core.costs.traffic import pieces_until
from jostle.core.engine.code import Billed
from jostle.core.engine.compile import Crew
from jostle.core.engine.mix import SPOT
from jostle.core.engine.result import Result
from jostle.core.plan.clock import Clock
from jostle.core.plan.tariff import HOUR_MICROS, MICROS

# What an amount is told to, with room for the largest prices
LEAST, WIDE = Decimal("1e-18"), Context(prec=50)


class Entry(NamedTuple):
    """One amount of one hour. `instance` is counted from 0, None for what the group pays for itself; `seconds` are those that it
    ran or stood, told once, with the machine."""

    hour: int
    instance: int | None
    part: Part
    seconds: Decimal
    amount: Decimal


class Stretch(NamedTuple):
    """A part of a record that was paid for under one arrangement; `begin` and `end` are s from the beginning of the record."""

    result: Result
    crew: Crew
    begin: float
    end: float


@dataclass(frozen=True)
class Hour:
    """What an hour was like. Counts are least, mean and most over it; `begin` and `end` are s since 1970. `late` are answers, or
    jobs taken up, later than the strictest promise of the group, and what failed."""

    begin: float
    end: float
    serving: tuple[int, float, int]
    billed: tuple[int, float, int]
    stopped: tuple[int, float, int]
    demand: float
    served: float
    failed: float
    short_minutes: float
    late: float = 0.0

    def day(self, zone: ZoneInfo) -> date:
        """The day on which it begins, on the clock of a zone."""
        return datetime.fromtimestamp(self.begin, zone).date()


def blank_hour(begin: float, end: float) -> Hour:
    """One of which nothing else is known."""
    none = (0, 0.0, 0)
    return Hour(begin, end, none, none, none, 0.0, 0.0, 0.0, 0.0)


@dataclass(frozen=True)
class Ledger:
    """Of one group, from the first hour on; the last is cut where the record ends."""

    hours: list[Hour]
    entries: list[Entry]

    def total(self) -> Decimal:
        return sum((entry.amount for entry in self.entries), Decimal())


def hour_edges(clock: Clock, until: float) -> NDArray[np.float64]:
    """Where hours begin on the wall clock of the plan, and the end, s since 1970: each day has its own number of them."""
    edges, day = [clock.first], _midnight(clock.first, clock)
    while edges[-1] < until:
        begin, day = _epoch(day, clock), day + timedelta(days=1)
        edges += [t for t in np.arange(begin, _epoch(day, clock), 3600.0).tolist() if edges[-1] < t]
    return np.array([*(edge for edge in edges if edge < until), until])


def next_edge(clock: Clock, after: float) -> float:
    """Where the hour ends that begins at an instant or holds it, s since 1970."""
    following = _epoch(_midnight(after, clock) + timedelta(days=1), clock)
    return min(_hour_begun(after, clock) + 3600.0, following)


def last_edge(clock: Clock, until: float) -> float:
    """Where the last hour ended that is over at an instant, s since 1970; the first instant where none is."""
    return max(clock.first, _hour_begun(until, clock))


def _hour_begun(at: float, clock: Clock) -> float:
    """When the hour of the day began that an instant lies in."""
    begin = _epoch(_midnight(at, clock), clock)
    return begin + 3600.0 * ((at - begin + 1e-6) // 3600.0)


def _midnight(at: float, clock: Clock) -> datetime:
    """The beginning of the day of an instant, on the wall clock."""
    return clock.at(at).replace(hour=0, minute=0, second=0, microsecond=0, tzinfo=None)


def _epoch(moment: datetime, clock: Clock) -> float:
    return moment.replace(tzinfo=clock.zone).timestamp()


def ledger(result: Result, crew: Crew, clock: Clock) -> Ledger:
    """The ledger of what has been played so far; there is no hour yet where nothing has."""
    return ledger_of([Stretch(result, crew, 0.0, result.elapsed)], clock)


def ledger_of(
    stretches: Sequence[Stretch], clock: Clock, since: float = 0.0, late: Sequence[float] = (), closed: bool = False
) -> Ledger:
    """The ledger of stretches that follow each other, from the hour on that begins at `since` (s from the beginning). An hour in
    which one stretch follows another has what was owed in each, at the prices of each. `late` has what was late in each hour of
    all, the last included, where that is known.

    What is launched at the very end of an hour is owed in the next. Until a tick of that is played it stands in the hour that
    ended, which is without it where it is `closed`; where the next is asked for, it has a beginning and no length yet.
    """
    result = stretches[-1].result
    if result.elapsed < max(since - 1e-6, clock.tick / 2):
        return Ledger([], [])
    if result.elapsed <= since:
        begun = blank_hour(clock.first + since, clock.first + since)
        last = next(one for one in stretches if one.end >= since)
        return Ledger([begun], list(_of_instances(last.result, last.crew, np.array([since, since]), since, since)))
    edges = hour_edges(clock, clock.first + result.elapsed) - clock.first
    before = int(np.searchsorted(edges, since - 1e-6))
    edges = edges[before:]
    hours = _hours(result, clock, edges)
    known = zip(hours, late[before:], strict=False)
    found = Ledger([replace(hour, late=many) for hour, many in known] + hours[len(late[before:]) :], [])
    for one in stretches:
        begin, end = max(one.begin, float(edges[0])), min(one.end, result.elapsed)
        if begin < end:
            found.entries.extend(_entries(one.result, one.crew, edges, begin, end, closed))
    return found


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


def _entries(result: Result, crew: Crew, edges: NDArray[np.float64], begin: float, end: float, closed: bool) -> Iterator[Entry]:
    """What came to be owed from one instant to another, hour by hour."""
    yield from _of_instances(result, crew, edges, begin, end, closed)
    hours = range(len(edges) - 1)
    clipped = np.clip(edges, begin, end)
    for hour in hours:
        yield from _some(hour, None, Part("load balancer"), group_cost(float(clipped[hour + 1] - clipped[hour]), crew))
    if kinds := crew.traffics:
        pieces = pieces_until(result, np.round(clipped / result.setup.tick).astype(int).tolist()).tolist()
        for kind in kinds:
            moved = [kind.moved(many) for many in pieces]
            for hour in hours:
                yield from _some(hour, None, Part(kind.what), kind.cost(moved[hour + 1] - moved[hour]))


def _of_instances(
    result: Result, crew: Crew, edges: NDArray[np.float64], begin: float, end: float, closed: bool = False
) -> Iterator[Entry]:
    instances, spells, tariffs = result.instances, result.spells, crew.tariffs
    market = MarketPrice(result.setup) if result.setup.of("spot") else None
    ends = np.where(np.isnan(spells["end"]), result.elapsed, spells["end"])
    # What begins at the very end has cost the least that is paid for already.
    open_end = end >= result.elapsed and not closed
    here = ((spells["begin"] < end) | open_end) & ((ends > begin) | (spells["begin"] >= begin))
    micros = np.round(edges * MICROS).astype(np.int64).tolist()
    low, high = round(begin * MICROS), round(end * MICROS)
    for row, ended in zip(spells[here], ends[here].tolist(), strict=True):
        number, began = int(row["instance"]), float(row["begin"])
        one = instances[number]
        kind = int(one["kind"])
        spot, tariff = market is not None and bought(kind) == SPOT, tariffs[type_of(kind)]
        zone, version = crew.launch.zones[int(one["zone"])], int(one["version"])
        part = Part("machine", crew.machine_of(kind), zone, version, bool(one["overflow"]), spot)
        start = round(began * MICROS)
        lasted = round((ended - began) * MICROS)
        first = min(len(edges) - 2, max(0, int(np.searchsorted(edges, max(began, begin), side="right")) - 1))
        last = min(len(edges) - 2, max(first, int(np.searchsorted(edges, min(ended, end), side="left")) - 1))
        running = row["kind"] == Billed.RUNNING
        before, paid = max(0, low - start), 0
        if before and running:
            paid = paid_micros(before, tariff.hourly, tariff.least_micros)
        for hour in range(first, last + 1):
            until = min(lasted, high - start) if hour == last else max(0, min(lasted, micros[hour + 1] - start))
            here_micros = Decimal(until - before)
            seconds = here_micros / MICROS
            if running:
                owed = paid_micros(until, tariff.hourly, tariff.least_micros)
                amount = Decimal(owed - paid) * tariff.machine / HOUR_MICROS
                if market is not None and spot:
                    amount = market.amount(kind, int(one["zone"]), start + before, start + until)
                yield Entry(hour, number, part, seconds, amount.quantize(LEAST, context=WIDE))
                paid = owed
                yield from _some(hour, number, part._replace(what="address"), here_micros * tariff.address / HOUR_MICROS)
            elif row["kind"] == Billed.DETACHED:
                yield from _some(hour, number, part._replace(what=DETACHED), here_micros * tariff.disk / HOUR_MICROS)
                before = until
                continue
            else:
                stood = part._replace(what=STOPPED, spot=False)
                amount = here_micros * tariff.stopped / HOUR_MICROS
                yield Entry(hour, number, stood, seconds, amount.quantize(LEAST, context=WIDE))
            yield from _some(hour, number, part._replace(what="disk"), here_micros * tariff.disk / HOUR_MICROS)
            before = until


def _some(hour: int, instance: int | None, part: Part, amount: Decimal) -> Iterator[Entry]:
    if amount:
        yield Entry(hour, instance, part, Decimal(), amount.quantize(LEAST, context=WIDE))
