"""What was spent while a plan lived, by day and hour and for what, and what is likely."""

from collections import defaultdict
from collections.abc import Iterable
from datetime import date, datetime, timedelta
from decimal import Decimal
from typing import Literal, get_args
from zoneinfo import ZoneInfo

import numpy as np
from pydantic import BaseModel, Field

from jostle.api.strips import Numbers, numbers
from jostle.core.costs.books import BROUGHT, HOUR, Book, Books
from jostle.core.costs.ledger import Entry
from jostle.core.plan.budget import Budget
from jostle.core.plan.clock import DAY
from jostle.core.plan.quantity import say_money, say_number, say_price, say_share
from jostle.core.plan.word import say_count
from jostle.live.live import Live

DICE = (1, 2, 3)
# In which ways an amount is parted
By = Literal["for", "machine", "purchase", "zone", "version", "owned"]
WAYS: tuple[By, ...] = get_args(By)
# Of the calendar; what was brought of longer ago counts, and is not drawn
MOST_DAYS = 400
# What a thing of each kind of work is called when a thousand of them are
_THINGS = {"requests": "1,000", "jobs": "job", "sessions": "1,000"}
_PER = {"requests": 1000.0, "jobs": 1.0, "sessions": 1000.0}


class Day(BaseModel):
    """One day of the calendar. `shares` are those of each group in `groups`, of the dearest day; `course` is the count of paid
    instances through the day."""

    date: str
    label: str = Field(description="Its number, with the month where that begins")
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
    lives: bool = Field(description="Whether something lives; what was brought of the past may stand alone")
    brought: int = Field(description="Hours that were brought of the time before it lived")
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


def costs_view(
    books: Books, begin: date | None, end: date | None, budgets: list[Budget], beside: date | None = None
) -> CostsView:
    """Everything of the days from `begin` to `end`, both included, all that were lived if left out; compared with as many days
    from `beside` on."""
    zone, currency = books.zone, books.currency
    first, today = books.days
    begin, end = begin or first, min(end or today, today)
    names = list(books.of)
    by_day = {name: _by_day(book, zone) for name, book in books.of.items()}
    last = datetime.fromtimestamp(books.ends - 1, zone).date()
    shown = max(first, last - timedelta(days=MOST_DAYS - 1))
    dates = [shown + timedelta(days=n) for n in range((last - shown).days + 1)]
    dearest = max((float(sum(by_day[name][0][day] for name in names)) for day in dates), default=0.0) or 1.0
    days = [
        Day(
            date=day.isoformat(),
            label=f"{day.day} {day:%b}" if day.day == 1 or day == shown else str(day.day),
            column=day.weekday(),
            lived=day <= today,
            cost=say_money(sum(by_day[name][0][day] for name in names), currency) if day <= today else "",
            shares=[round(float(by_day[name][0][day]) / dearest, 4) for name in names],
            course=_course([by_day[name][1][day] for name in names]),
        )
        for day in dates
    ]
    chosen = {name: list(within(books, name, begin, end)) for name in names}
    spent = sum((entry.amount for entries in chosen.values() for entry in entries), Decimal())
    one_day = begin == end
    other: dict[str, Decimal] = {}
    if beside is not None:
        before = beside + (end - begin)
        other = {name: sum((entry.amount for entry in within(books, name, beside, before)), Decimal()) for name in names}
    hours = _hours_of(books, begin) if one_day else []
    return CostsView(
        currency=currency,
        spent=say_money(sum((entry.amount for book in books.of.values() for entry in book.entries), Decimal()), currency),
        lived_for=say_count((today - first).days + 1, "day"),
        span=span_text(begin, end),
        begin=begin.isoformat(),
        end=end.isoformat(),
        groups=names,
        days=days,
        hours=hours,
        dearest_hour=max(hours, key=lambda bar: sum(bar.shares)).said if hours else "",
        table=[_row(books, name, chosen[name], begin, end, spent, other.get(name)) for name in names],
        partings=_partings(books, chosen),
        budgets=[_budget(number, one, books, today) for number, one in enumerate(budgets)],
        cost=say_money(spent, currency),
        lives=any(book.work is not None for book in books.of.values()),
        brought=_brought(books),
        beside=None
        if beside is None
        else _beside(beside, beside + (end - begin), spent, sum(other.values(), Decimal()), currency),
    )


def _brought(books: Books) -> int:
    """How many hours were brought."""
    spans = (book.hours[entry.hour] for book in books.of.values() for entry in book.entries if entry.what == BROUGHT)
    return round(sum(span.end - span.begin for span in spans) / HOUR)


def span_text(begin: date, end: date) -> str:
    return f"{begin:%a} {begin.day} {begin:%b}" + ("" if begin == end else f" to {end:%a} {end.day} {end:%b}")


def _beside(begin: date, end: date, now: Decimal, then: Decimal, currency: str) -> Beside:
    share = f", {'−' if now < then else '+'} {say_share(float(abs(now - then) / then))}" if then else ""
    more = _more(now - then, currency) + share
    return Beside(begin=begin.isoformat(), span=span_text(begin, end), cost=say_money(then, currency), change=more)


def _by_day(book: Book, zone: ZoneInfo) -> tuple[dict[date, Decimal], dict[date, list[float]]]:
    """Amounts by day, and the mean counts of its hours."""
    days = [hour.day(zone) for hour in book.hours]
    amounts: dict[date, Decimal] = defaultdict(Decimal)
    counts: dict[date, list[float]] = defaultdict(list)
    for entry in book.entries:
        amounts[days[entry.hour]] += entry.amount
    for day, hour in zip(days, book.hours, strict=True):
        counts[day].append(hour.billed[1])
    return amounts, counts


def _course(counts: list[list[float]]) -> Numbers:
    longest = max((len(one) for one in counts), default=0)
    summed = [sum(one[k] for one in counts if k < len(one)) for k in range(longest)]
    return numbers(np.array(summed)) if summed else []


def within(books: Books, name: str, begin: date, end: date) -> Iterable[Entry]:
    book = books.of[name]
    inside = [begin <= hour.day(books.zone) <= end for hour in book.hours]
    return (entry for entry in book.entries if inside[entry.hour])


def _hours_of(books: Books, day: date) -> list[HourBar]:
    bars: dict[float, list[Decimal]] = {}
    for place, book in enumerate(books.of.values()):
        here = {number: hour.begin for number, hour in enumerate(book.hours) if hour.day(books.zone) == day}
        for begin in here.values():
            bars.setdefault(begin, [Decimal()] * len(books.of))
        for entry in book.entries:
            if entry.hour in here:
                bars[here[entry.hour]][place] += entry.amount
    dearest = max((sum(amounts, Decimal()) for amounts in bars.values()), default=Decimal()) or Decimal(1)
    return [
        HourBar(
            label=(label := f"{datetime.fromtimestamp(begin, books.zone):%H:%M}"),
            said=f"{say_money(sum(amounts, Decimal()), books.currency)} in the hour from {label}",
            shares=[float(amount / dearest) for amount in amounts],
        )
        for begin, amounts in sorted(bars.items())
    ]


def _row(
    books: Books, name: str, entries: list[Entry], begin: date, end: date, whole: Decimal, then: Decimal | None
) -> GroupCost:
    book, currency = books.of[name], books.currency
    hours = [hour for hour in book.hours if begin <= hour.day(books.zone) <= end]
    amount = sum((entry.amount for entry in entries), Decimal())
    running = sum((entry.seconds for entry in entries if entry.what in ("machine", BROUGHT)), Decimal()) / 3600
    served = sum(hour.served for hour in hours)
    each = ""
    if book.work is not None and served > 0:
        # What was brought says nothing of what was served.
        lived = sum((entry.amount for entry in entries if entry.what != BROUGHT), Decimal())
        unit = lived * Decimal(_PER[book.work] / served)
        each = f"{say_price(Decimal(f'{unit:.3g}'), currency)} per {_THINGS[book.work]}"
    low, high = min((hour.serving[0] for hour in hours), default=0), max((hour.serving[2] for hour in hours), default=0)
    return GroupCost(
        name=name,
        instance_hours=say_number(round(float(running), 1)),
        count=f"{low} – {high}",
        cost=say_money(amount, currency),
        unit_cost=each,
        share=say_share(float(amount / whole)) if whole else "",
        beside="" if then is None else f"{say_money(then, currency)} ({_more(amount - then, currency)})",
    )


def _more(amount: Decimal, currency: str) -> str:
    return f"{'−' if amount < 0 else '+'} {say_money(abs(amount), currency)}"


def _partings(books: Books, chosen: dict[str, list[Entry]]) -> list[Parting]:
    found: dict[By, dict[str, Decimal]] = {by: defaultdict(Decimal) for by in WAYS}
    for name, book in books.of.items():
        for entry in chosen[name]:
            for by in WAYS:
                found[by][part_of(book, entry, by)] += entry.amount
    return [Parting(by=by, parts=parts_of(amounts, books.currency)) for by, amounts in found.items()]


def part_of(book: Book, entry: Entry, by: By) -> str:
    """The part to which an amount belongs that is parted in one way."""
    if by == "for":
        return entry.what
    if entry.instance is None:
        return BROUGHT if entry.what == BROUGHT else "the group"
    match by:
        case "machine":
            return book.machine
        case "purchase":
            return "spot" if entry.spot else "on-demand"
        case "zone":
            return entry.zone
        case "version":
            return f"{book.template} {entry.version}"
        case "owned":
            return "overflow" if entry.overflow else "owned"


def parts_of(amounts: dict[str, Decimal], currency: str) -> list[Part]:
    whole = sum(amounts.values(), Decimal()) or Decimal(1)
    ranked = sorted(amounts.items(), key=lambda one: -one[1])
    return [Part(name=name, amount=say_money(amount, currency), share=float(amount / whole)) for name, amount in ranked if amount]


def _budget(number: int, budget: Budget, books: Books, today: date) -> BudgetState:
    begin = budget.since(today)
    names = [name for name in books.of if budget.group in (None, name)]
    spent = sum((entry.amount for name in names for entry in within(books, name, begin, today)), Decimal())
    most = say_money(budget.at_most, books.currency)
    return BudgetState(
        number=number,
        text=f"{budget.whose}: at most {most} a {budget.each}",
        spent=say_money(spent, books.currency),
        share=float(spent / budget.at_most),
        over=spent > budget.at_most,
    )


def books_of(live: Live) -> Books:
    """The ledgers of what lives."""
    found = {}
    for name, life in live.everyone.items():
        book, launch = life.ledger(), life.leg.crew.launch
        found[name] = Book(book.hours, book.entries, launch.machine, launch.template, life.leg.crew.group.work.kind)
    return Books(live.plan.zone, live.plan.currency, live.first, live.now, live.ends, found)


def curve(live: Live, budgets: list[Budget]) -> Curve:
    """How the sum grows to the end of what lives."""
    zone, currency = live.plan.zone, live.plan.currency
    first = datetime.fromtimestamp(live.first, zone)
    midnight = first.replace(hour=0, minute=0, second=0, microsecond=0, tzinfo=None)
    number = round(live.begun.days) + 1
    ends = [(midnight + timedelta(days=n + 1)).replace(tzinfo=zone).timestamp() for n in range(number)]
    ends = [min(end, live.ends) for end in ends if end - DAY < live.ends - 1]
    days = [datetime.fromtimestamp(end - 1, zone).date() for end in ends]
    by_day = [_by_day(book, zone)[0] for book in books_of(live).of.values()]
    sums = np.cumsum([float(sum(one[day] for one in by_day)) for day in days])
    lived = np.where(np.array(ends) <= live.now, sums, np.nan)
    now = float(sum((life.ledger().total() for life in live.everyone.values()), Decimal()))
    coming = [live.now, *(end for end in ends if end > live.now)]
    paths = []
    for dice in DICE:
        parts = [life.spend_ahead([edge - life.clock.first for edge in coming], dice) for life in live.everyone.values()]
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
