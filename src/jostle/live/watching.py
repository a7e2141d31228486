"""What is to be told of what was lived: read off the record, so that after a stop, or a leap of the clock, the same is told."""

from collections import defaultdict
from collections.abc import Iterator
from datetime import date, datetime, time, timedelta
from decimal import Decimal
from typing import NamedTuple, assert_never

import numpy as np
from numpy.typing import NDArray

from jostle.core.plan.budget import Budget
from jostle.core.plan.clock import DAY
from jostle.core.plan.watch import (
    BudgetWatch,
    DiffersWatch,
    LastingWatch,
    MaximumWatch,
    OverflowWatch,
    QuietHours,
    ShortWatch,
    Watch,
)
from jostle.live.life import Life
from jostle.live.live import Live

HOUR, QUARTER = 3600.0, 900.0


class Notice(NamedTuple):
    """Something told: what was so from `since` on is told at `at`, s since 1970; `over` says that it is so no more."""

    at: float
    since: float
    group: str
    kind: str
    over: bool
    text: str


class Breach(NamedTuple):
    """A stretch in which something was so: told of at `at`, over at `over` unless it lasts; `seen` is what was seen then, `whose`
    the group where it is not that which is looked at."""

    since: float
    at: float
    over: float | None
    seen: float
    whose: str = ""


def notices(live: Live, watches: list[Watch], budgets: list[Budget], after: float) -> list[Notice]:
    """What is told from an instant (s since 1970) to before now, in the order of time; both count from the tick that they lie in,
    so that looks that follow each other tell everything once."""
    found: list[Notice] = []
    tick = next(iter(live.lives.values())).clock.tick
    after, now = (live.first + tick * int((at - live.first) / tick + 1e-6) for at in (max(after, live.first), live.now))
    for watch in watches:
        for name, life in live.lives.items():
            if watch.group in (None, name):
                for breach in _breaches(live, life, watch, budgets, after):
                    found += _told(watch, breach.whose or name, breach, live, after, now)
    return sorted(set(found))


def _told(watch: Watch, group: str, breach: Breach, live: Live, after: float, now: float) -> Iterator[Notice]:
    """The notices of one breach. One that begins in quiet hours is told when they end, if it lasts as long."""
    at = breach.at if watch.quiet is None else _awake(breach.at, watch.quiet, live)
    if breach.over is not None and breach.over <= at and at > breach.at:
        return
    if after <= at < now:
        yield Notice(at, breach.since, group, watch.kind, False, watch.began(group, breach.seen))
    if breach.over is not None:
        over = breach.over if watch.quiet is None else _awake(breach.over, watch.quiet, live)
        if after <= over < now:
            yield Notice(over, breach.since, group, watch.kind, True, watch.over(group, breach.over - breach.since))


def _awake(at: float, quiet: QuietHours, live: Live) -> float:
    """The instant itself, or the end of the quiet hours that it lies in."""
    wall = datetime.fromtimestamp(at, live.plan.zone)
    begin, until = time.fromisoformat(quiet.begin), time.fromisoformat(quiet.until)
    now = wall.time()
    within = begin <= now < until if begin <= until else now >= begin or now < until
    if not within:
        return at
    ends = datetime.combine(wall.date(), until)
    if now >= until:
        ends += timedelta(days=1)
    return ends.replace(tzinfo=live.plan.zone).timestamp()


def _breaches(live: Live, life: Life, watch: Watch, budgets: list[Budget], after: float) -> Iterator[Breach]:
    match watch:
        case ShortWatch() | MaximumWatch() | OverflowWatch():
            yield from _lasting(live, life, watch, after)
        case BudgetWatch():
            # An hour can only have ended where a quarter of one has: no zone's clock stands otherwise.
            for budget in budgets if after // QUARTER != live.now // QUARTER else ():
                # A budget of all groups is told of once, with the first.
                if budget.group == life.group or (budget.group is None and watch.group is None and _is_first(live, life)):
                    yield from _spent(live, budget, watch.share)
        case DiffersWatch():
            yield from _differing(life, watch.by)
        case _:
            assert_never(watch)


def _is_first(live: Live, life: Life) -> bool:
    return next(iter(live.lives.values())) is life


def _lasting(live: Live, life: Life, watch: LastingWatch, after: float) -> Iterator[Breach]:
    """Stretches of ticks that last long enough, of those that can be told of after an instant."""
    tick, first = life.clock.tick, live.first
    look_back = watch.length + (DAY if watch.quiet else 0.0) + 2 * tick
    now = int(life.state.now["tick"][0])
    begin = min(now, max(0, int((after - look_back - first) / tick)))
    holds = _holds(watch, life, begin, now)
    if begin > 0 and len(holds) and holds[0]:
        # It was so before the look began, however long.
        begin, holds = 0, _holds(watch, life, 0, now)
    for low, high in _runs(holds):
        if (high - low) * tick >= max(watch.length, tick):
            since = first + (begin + low) * tick
            over = None if high == len(holds) else first + (begin + high) * tick
            yield Breach(since, since + watch.length, over, float(life.leg.crew.group.maximum))


def _holds(watch: LastingWatch, life: Life, begin: int, end: int) -> NDArray[np.bool_]:
    """Whether it is so in each tick from one to before another."""
    rows, group = life.state.series[begin:end].view(np.ndarray), life.leg.crew.group
    match watch:
        case MaximumWatch():
            return np.asarray(rows["desired"] >= group.maximum)
        case OverflowWatch():
            return np.asarray(rows["desired"] > group.owned) if group.owned is not None else np.zeros(len(rows), np.bool_)
        case _:
            return np.asarray(rows["short"] > 0)


def _runs(holds: NDArray[np.bool_]) -> list[tuple[int, int]]:
    """First and after the last of each run of what is true."""
    edges = np.flatnonzero(np.diff(np.concatenate([[0], holds.astype(np.int8), [0]]))).tolist()
    return list(zip(edges[::2], edges[1::2], strict=True))


def _spent(live: Live, budget: Budget, share: float) -> Iterator[Breach]:
    """When a share of a budget was spent in each of its weeks or months, to the hour."""
    by_hour: dict[float, Decimal] = defaultdict(Decimal)
    for name, life in live.everyone.items():
        if budget.group in (None, name):
            book = life.ledger()
            for entry in book.entries:
                by_hour[book.hours[entry.hour].end] += entry.amount
    summed: dict[date, Decimal] = defaultdict(Decimal)
    told: dict[date, Breach] = {}
    limit = budget.at_most * Decimal(str(share))
    for end in sorted(by_hour):
        day = datetime.fromtimestamp(end - 1, live.plan.zone).date()
        period = budget.since(day)
        summed[period] += by_hour[end]
        if period not in told and summed[period] >= limit:
            told[period] = Breach(end, end, None, float(summed[period] / budget.at_most), budget.whose)
    yield from told.values()


def _differing(life: Life, by: float) -> Iterator[Breach]:
    """Hours, one after the other, in which the mean capacity was so much more or less than rehearsed."""
    step = round(HOUR / life.clock.tick)
    hours = int(life.time / HOUR + 1e-9)
    lived = life.state.series["capacity"][: hours * step].reshape(hours, step).mean(axis=1, dtype=np.float64)
    foreseen = life.rehearsed[: hours * step].reshape(hours, step).mean(axis=1, dtype=np.float64)
    apart = np.where(foreseen > 0, (lived - foreseen) / np.where(foreseen > 0, foreseen, 1.0), np.sign(lived))
    first = life.clock.first
    for low, high in _runs(np.abs(apart) >= by):
        yield Breach(
            first + low * HOUR,
            first + (low + 1) * HOUR,
            None if high == hours else first + (high + 1) * HOUR,
            float(apart[low]),
        )
