"""What was spent while a plan lived, by day and hour and for what, and what is likely."""

from collections import defaultdict
from collections.abc import Iterable
from datetime import date, datetime, timedelta
from decimal import Decimal

import numpy as np
from pydantic import BaseModel, Field

from jostle.api.strips import Numbers, numbers
from jostle.core.costs.ledger import Entry, Hour
from jostle.core.plan.budget import Budget
from jostle.core.plan.clock import DAY
from jostle.core.plan.quantity import say_money, say_number, say_price, say_share
from jostle.live.live import Live

DICE = (1, 2, 3)
# What a thing of each kind of work is called when a thousand of them are
_THINGS = {"requests": "1,000", "jobs": "job", "sessions": "1,000"}
_PER = {"requests": 1000.0, "jobs": 1.0, "sessions": 1000.0}


class Day(BaseModel):
    """One day of the calendar. `shares` are those of each group in `groups`, of the dearest day; `course` is the count of paid
    instances through the day."""

    date: str
    number: int
    column: int = Field(description="0 for Monday")
    lived: bool
    cost: str
    shares: list[float]
    course: Numbers


class HourBar(BaseModel):
    """One hour of the chosen day; `shares` as for a day, of the dearest hour."""

    label: str
    said: str
    shares: list[float]


class GroupCost(BaseModel):
    name: str
    instance_hours: str
    count: str
    cost: str
    unit_cost: str
    share: str
    beside: str = Field(description="Its cost in the span that is compared with, and how much more it is now")


class Beside(BaseModel):
    """A span of as many days, compared with."""

    begin: str
    span: str
    cost: str
    change: str


class Part(BaseModel):
    name: str
    amount: str
    share: float


class Parting(BaseModel):
    """The same amount parted in one way."""

    by: str
    parts: list[Part]


class BudgetState(BaseModel):
    """A budget with how far it is used."""

    number: int
    text: str
    spent: str
    share: float
    over: bool


class CostsView(BaseModel):
    currency: str
    spent: str
    lived_for: str
    span: str
    begin: str
    end: str
    groups: list[str]
    days: list[Day]
    hours: list[HourBar]
    dearest_hour: str
    table: list[GroupCost]
    partings: list[Parting]
    budgets: list[BudgetState]
    cost: str = Field(description="Of the chosen days")
    beside: Beside | None


class Curve(BaseModel):
    """Spent from the first day on at the end of each, lived and then likely with its band over several draws."""

    days: list[str]
    lived: Numbers
    likely: Numbers
    low: Numbers
    high: Numbers
    likely_by_day: list[str]
    said: str
    budget: float | None
    reached: str | None = Field(description="When the budget is likely to be reached")


def costs_view(live: Live, begin: date | None, end: date | None, budgets: list[Budget], beside: date | None = None) -> CostsView:
    """Everything of the days from `begin` to `end`, both included, all that were lived if left out; compared with as many days
    from `beside` on."""
    zone, currency = live.plan.zone, live.plan.currency
    first, today = (datetime.fromtimestamp(at, zone).date() for at in (live.first, live.now - 1))
    begin, end = begin or first, min(end or today, today)
    books = {name: life.ledger() for name, life in live.lives.items()}
    names = list(books)
    by_day = {name: _by_day(books[name].hours, books[name].entries, live) for name in names}
    last = datetime.fromtimestamp(live.ends - 1, zone).date()
    dates = [first + timedelta(days=n) for n in range((last - first).days + 1)]
    dearest = max((float(sum(by_day[name][0][day] for name in names)) for day in dates), default=0.0) or 1.0
    days = [
        Day(
            date=day.isoformat(),
            number=day.day,
            column=day.weekday(),
            lived=day <= today,
            cost=say_money(sum(by_day[name][0][day] for name in names), currency) if day <= today else "",
            shares=[round(float(by_day[name][0][day]) / dearest, 4) for name in names],
            course=_course([by_day[name][1][day] for name in names]),
        )
        for day in dates
    ]
    chosen = {name: list(_within(live, name, begin, end)) for name in names}
    spent = sum((entry.amount for entries in chosen.values() for entry in entries), Decimal())
    one_day = begin == end
    other: dict[str, Decimal] = {}
    if beside is not None:
        before = beside + (end - begin)
        other = {name: sum((entry.amount for entry in _within(live, name, beside, before)), Decimal()) for name in names}
    hours = _hours_of(live, names, begin) if one_day else []
    return CostsView(
        currency=currency,
        spent=say_money(sum((book.total() for book in books.values()), Decimal()), currency),
        lived_for=f"{(today - first).days + 1} days",
        span=_span(begin, end),
        begin=begin.isoformat(),
        end=end.isoformat(),
        groups=names,
        days=days,
        hours=hours,
        dearest_hour=max(hours, key=lambda bar: sum(bar.shares)).said if hours else "",
        table=[_row(live, name, chosen[name], begin, end, spent, other.get(name)) for name in names],
        partings=_partings(live, chosen, currency),
        budgets=[_budget(number, one, live, today) for number, one in enumerate(budgets)],
        cost=say_money(spent, currency),
        beside=None
        if beside is None
        else _beside(beside, beside + (end - begin), spent, sum(other.values(), Decimal()), currency),
    )


def _span(begin: date, end: date) -> str:
    return f"{begin:%a} {begin.day} {begin:%b}" + ("" if begin == end else f" to {end:%a} {end.day} {end:%b}")


def _beside(begin: date, end: date, now: Decimal, then: Decimal, currency: str) -> Beside:
    change = f"{'−' if now < then else '+'} {say_money(abs(now - then), currency)}"
    share = f", {'−' if now < then else '+'} {say_share(float(abs(now - then) / then))}" if then else ""
    return Beside(begin=begin.isoformat(), span=_span(begin, end), cost=say_money(then, currency), change=change + share)


def _day_of(hour: Hour, live: Live) -> date:
    return datetime.fromtimestamp(hour.begin, live.plan.zone).date()


def _by_day(hours: list[Hour], entries: list[Entry], live: Live) -> tuple[dict[date, Decimal], dict[date, list[float]]]:
    """Amounts by day, and the mean counts of its hours."""
    days = [_day_of(hour, live) for hour in hours]
    amounts: dict[date, Decimal] = defaultdict(Decimal)
    counts: dict[date, list[float]] = defaultdict(list)
    for entry in entries:
        amounts[days[entry.hour]] += entry.amount
    for day, hour in zip(days, hours, strict=True):
        counts[day].append(hour.billed[1])
    return amounts, counts


def _course(counts: list[list[float]]) -> Numbers:
    longest = max((len(one) for one in counts), default=0)
    summed = [sum(one[k] for one in counts if k < len(one)) for k in range(longest)]
    return numbers(np.array(summed)) if summed else []


def _within(live: Live, name: str, begin: date, end: date) -> Iterable[Entry]:
    book = live.lives[name].ledger()
    inside = [begin <= _day_of(hour, live) <= end for hour in book.hours]
    return (entry for entry in book.entries if inside[entry.hour])


def _hours_of(live: Live, names: list[str], day: date) -> list[HourBar]:
    bars: list[tuple[str, list[Decimal]]] = []
    for place, name in enumerate(names):
        book = live.lives[name].ledger()
        here = [number for number, hour in enumerate(book.hours) if _day_of(hour, live) == day]
        amounts: dict[int, Decimal] = defaultdict(Decimal)
        for entry in book.entries:
            amounts[entry.hour] += entry.amount
        for k, number in enumerate(here):
            if k == len(bars):
                at = datetime.fromtimestamp(book.hours[number].begin, live.plan.zone)
                bars.append((f"{at:%H:%M}", [Decimal()] * len(names)))
            bars[k][1][place] = amounts[number]
    dearest = max((sum(amounts, Decimal()) for _, amounts in bars), default=Decimal()) or Decimal(1)
    return [
        HourBar(
            label=label,
            said=f"{say_money(sum(amounts, Decimal()), live.plan.currency)} in the hour from {label}",
            shares=[float(amount / dearest) for amount in amounts],
        )
        for label, amounts in bars
    ]


def _row(live: Live, name: str, entries: list[Entry], begin: date, end: date, whole: Decimal, then: Decimal | None) -> GroupCost:
    life, currency = live.lives[name], live.plan.currency
    hours = [hour for hour in life.ledger().hours if begin <= _day_of(hour, live) <= end]
    amount = sum((entry.amount for entry in entries), Decimal())
    running = sum((entry.seconds for entry in entries if entry.what == "machine"), Decimal()) / 3600
    work = life.leg.crew.group.work.kind
    served = sum(hour.served for hour in hours)
    unit = amount * Decimal(_PER[work] / served) if served > 0 else None
    each = "" if unit is None else f"{say_price(Decimal(f'{unit:.3g}'), currency)} per {_THINGS[work]}"
    low, high = min((hour.serving[0] for hour in hours), default=0), max((hour.serving[2] for hour in hours), default=0)
    return GroupCost(
        name=name,
        instance_hours=say_number(round(float(running), 1)),
        count=f"{low} – {high}",
        cost=say_money(amount, currency),
        unit_cost=each,
        share=say_share(float(amount / whole)) if whole else "",
        beside=""
        if then is None
        else f"{say_money(then, currency)} ({'−' if amount < then else '+'} {say_money(abs(amount - then), currency)})",
    )


def _partings(live: Live, chosen: dict[str, list[Entry]], currency: str) -> list[Parting]:
    found: dict[str, dict[str, Decimal]] = {
        by: defaultdict(Decimal) for by in ("for", "machine", "purchase", "zone", "version", "owned")
    }
    for name, life in live.lives.items():
        machine = life.leg.crew.launch.machine
        for entry in chosen[name]:
            own = entry.instance is None
            found["for"][entry.what] += entry.amount
            found["machine"]["the group" if own else machine] += entry.amount
            found["purchase"]["the group" if own else "spot" if entry.spot else "on-demand"] += entry.amount
            found["zone"]["the group" if own else entry.zone] += entry.amount
            found["version"]["the group" if own else f"{life.leg.crew.launch.template} {entry.version}"] += entry.amount
            found["owned"]["the group" if own else "overflow" if entry.overflow else "owned"] += entry.amount
    return [Parting(by=by, parts=parts_of(amounts, currency)) for by, amounts in found.items()]


def parts_of(amounts: dict[str, Decimal], currency: str) -> list[Part]:
    whole = sum(amounts.values(), Decimal()) or Decimal(1)
    ranked = sorted(amounts.items(), key=lambda one: -one[1])
    return [Part(name=name, amount=say_money(amount, currency), share=float(amount / whole)) for name, amount in ranked if amount]


def _budget(number: int, budget: Budget, live: Live, today: date) -> BudgetState:
    begin = today.replace(day=1) if budget.each == "month" else today - timedelta(days=today.weekday())
    names = [name for name in live.lives if budget.group in (None, name)]
    spent = sum((entry.amount for name in names for entry in _within(live, name, begin, today)), Decimal())
    most = say_money(budget.at_most, live.plan.currency)
    return BudgetState(
        number=number,
        text=f"{budget.whose}: at most {most} a {budget.each}",
        spent=say_money(spent, live.plan.currency),
        share=float(spent / budget.at_most),
        over=spent > budget.at_most,
    )


def curve(live: Live, budgets: list[Budget]) -> Curve:
    """How the sum grows to the end of what lives."""
    zone, currency = live.plan.zone, live.plan.currency
    first = datetime.fromtimestamp(live.first, zone)
    midnight = first.replace(hour=0, minute=0, second=0, microsecond=0, tzinfo=None)
    number = round(live.begun.days) + 1
    ends = [(midnight + timedelta(days=n + 1)).replace(tzinfo=zone).timestamp() for n in range(number)]
    ends = [min(end, live.ends) for end in ends if end - DAY < live.ends - 1]
    days = [datetime.fromtimestamp(end - 1, zone).date() for end in ends]
    by_day = [_by_day(book.hours, book.entries, live)[0] for book in (life.ledger() for life in live.lives.values())]
    sums = np.cumsum([float(sum(one[day] for one in by_day)) for day in days])
    lived = np.where(np.array(ends) <= live.now, sums, np.nan)
    now = float(sum((life.ledger().total() for life in live.lives.values()), Decimal()))
    coming = [live.now, *(end for end in ends if end > live.now)]
    paths = []
    for dice in DICE:
        parts = [life.spend_ahead([edge - live.first for edge in coming], dice) for life in live.lives.values()]
        paths.append(now + np.cumsum(np.sum(parts, axis=0)))
    ahead = np.array(paths)
    past = len(ends) - ahead.shape[1]
    blank = np.full(past, np.nan)
    middle, low, high = (np.concatenate([blank, getattr(ahead, fold)(axis=0)]) for fold in ("mean", "min", "max"))
    if 0 < past < len(ends):
        # The line that is likely begins where the other ends.
        middle[past - 1] = low[past - 1] = high[past - 1] = lived[past - 1]
    monthly = next((float(one.at_most) for one in budgets if one.group is None and one.each == "month"), None)
    reached = zip(days, np.fmax(lived, middle).tolist(), strict=True)
    over = None if monthly is None else next((day.isoformat() for day, summed in reached if summed > monthly), None)
    likely = np.diff(np.concatenate([[now], ahead.mean(axis=0)])) if ahead.shape[1] else np.zeros(0)
    end = datetime.fromtimestamp(live.ends - 1, zone)
    said = (
        f"{say_money(float(ahead[:, -1].mean()), currency)} is likely by {end:%a} {end.day} {end:%b}, " if ahead.shape[1] else ""
    )
    said += (
        f"{say_money(float(ahead[:, -1].min()), currency)} to {say_money(float(ahead[:, -1].max()), currency)}" if said else ""
    )
    return Curve(
        days=[day.isoformat() for day in days],
        lived=numbers(lived),
        likely=numbers(middle),
        low=numbers(low),
        high=numbers(high),
        likely_by_day=["" for _ in range(past)] + [say_money(float(one), currency) for one in likely],
        said=said,
        budget=monthly,
        reached=over,
    )
