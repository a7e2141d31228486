"""What was spent while a plan lived, by day and hour and for what, and what is likely."""

from collections import defaultdict
from datetime import date, datetime, timedelta
from decimal import Decimal

import numpy as np
from pydantic import BaseModel, Field

from jostle.api.strips import Numbers, numbers
from jostle.core.costs.account import About, Account, Kept
from jostle.core.costs.part import BROUGHT, WAYS, By
from jostle.core.plan.budget import Budget
from jostle.core.plan.clock import DAY
from jostle.core.plan.quantity import say_money, say_number, say_price, say_share
from jostle.core.plan.word import say_count
from jostle.live.live import Live

DICE = (1, 2, 3)
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
    late: str = Field(description="The share that was late or failed; empty where nothing is promised")
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
    entered: str = Field(description="What of the chosen days was entered late, or corrected, in words; empty where nothing was")


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


def costs_view(account: Account, budgets: list[Budget], beside: date | None = None) -> CostsView:
    """Everything of the chosen days, compared with as many days from `beside` on."""
    currency, names = account.currency, account.groups
    begin, end, today, first = account.begin, account.end, account.today, account.day(account.first)
    last = account.day(account.ends - 1)
    shown = max(first, last - timedelta(days=MOST_DAYS - 1))
    dates = [shown + timedelta(days=n) for n in range((last - shown).days + 1)]
    amounts = [[account.by_day[name][day] if day in account.by_day[name] else Decimal() for name in names] for day in dates]
    dearest = max((float(sum(one, Decimal())) for one in amounts), default=0.0) or 1.0
    days = [
        Day(
            date=day.isoformat(),
            label=f"{day.day} {day:%b}" if day.day == 1 or day == shown else str(day.day),
            column=day.weekday(),
            lived=day <= today,
            cost=say_money(sum(spent, Decimal()), currency) if day <= today else "",
            shares=[round(float(amount) / dearest, 4) for amount in spent],
            course=_course(account, day),
        )
        for day, spent in zip(dates, amounts, strict=True)
    ]
    spent = {name: sum((one.amount for one in account.chosen[name].values()), Decimal()) for name in names}
    whole = sum(spent.values(), Decimal())
    until = None if beside is None else beside + (end - begin)
    other = {} if beside is None or until is None else {name: account.between(name, beside, until) for name in names}
    then = sum(other.values(), Decimal())
    hours = _hours_of(account) if begin == end else []
    return CostsView(
        currency=currency,
        spent=say_money(account.between(None, date.min, date.max), currency),
        lived_for=say_count((today - first).days + 1, "day"),
        span=span_text(begin, end),
        begin=begin.isoformat(),
        end=end.isoformat(),
        groups=names,
        days=days,
        hours=hours,
        dearest_hour=max(hours, key=lambda bar: sum(bar.shares)).said if hours else "",
        table=[_row(account, name, spent[name], whole, other.get(name)) for name in names],
        partings=_partings(account),
        budgets=[_budget(number, one, account) for number, one in enumerate(budgets)],
        cost=say_money(whole, currency),
        lives=account.lives,
        brought=account.brought,
        entered=_entered(account),
        beside=None if beside is None or until is None else _beside(beside, until, whole, then, currency),
    )


def _entered(account: Account) -> str:
    said = [f"{say_count(account.late, 'hour')} entered late, after a stop"] if account.late else []
    said += [f"{say_count(account.corrected, 'amount')} corrected"] if account.corrected else []
    return ", ".join(said)


def span_text(begin: date, end: date) -> str:
    return f"{begin:%a} {begin.day} {begin:%b}" + ("" if begin == end else f" to {end:%a} {end.day} {end:%b}")


def _beside(begin: date, end: date, now: Decimal, then: Decimal, currency: str) -> Beside:
    share = f", {'−' if now < then else '+'} {say_share(float(abs(now - then) / then))}" if then else ""
    more = _more(now - then, currency) + share
    return Beside(begin=begin.isoformat(), span=span_text(begin, end), cost=say_money(then, currency), change=more)


def _course(account: Account, day: date) -> Numbers:
    """The mean count of all groups in each hour of a day."""
    counts = [count for _, count in sorted(account.counts[day].items())] if day in account.counts else []
    return numbers(np.array(counts)) if counts else []


def _hours_of(account: Account) -> list[HourBar]:
    bars = sorted(account.by_hour.items())
    dearest = max((sum(amounts.values(), Decimal()) for _, amounts in bars), default=Decimal()) or Decimal(1)
    return [
        HourBar(
            label=(label := f"{datetime.fromtimestamp(begin, account.zone):%H:%M}"),
            said=f"{say_money(sum(amounts.values(), Decimal()), account.currency)} in the hour from {label}",
            shares=[float(amounts.get(name, Decimal()) / dearest) for name in account.groups],
        )
        for begin, amounts in bars
    ]


def _row(account: Account, name: str, amount: Decimal, whole: Decimal, then: Decimal | None) -> GroupCost:
    currency, parts = account.currency, account.chosen[name]
    kept, work = account.kept.get(name, Kept(0, 0)), account.about.get(name, About()).work
    running = sum((one.seconds for part, one in parts.items() if part.what in ("machine", BROUGHT)), Decimal()) / 3600
    each = "what was free" if work == "hosting" else ""
    if work is not None and kept.served > 0:
        # What was brought says nothing of what was served.
        lived = sum((one.amount for part, one in parts.items() if part.what != BROUGHT), Decimal())
        unit = lived * Decimal(_PER[work] / kept.served)
        each = f"{say_price(Decimal(f'{unit:.3g}'), currency)} per {_THINGS[work]}"
    return GroupCost(
        name=name,
        instance_hours=say_number(round(float(running), 1)),
        count=f"{kept.low} – {kept.high}",
        cost=say_money(amount, currency),
        unit_cost=each,
        late=f"{say_share(kept.late / kept.came, 2)} late" if kept.late > 0 and kept.came > 0 else "",
        share=say_share(float(amount / whole)) if whole else "",
        beside="" if then is None else f"{say_money(then, currency)} ({_more(amount - then, currency)})",
    )


def _more(amount: Decimal, currency: str) -> str:
    return f"{'−' if amount < 0 else '+'} {say_money(abs(amount), currency)}"


def _partings(account: Account) -> list[Parting]:
    found: dict[By, dict[str, Decimal]] = {by: defaultdict(Decimal) for by in WAYS}
    for name, parts in account.chosen.items():
        template = account.about.get(name, About()).template
        for part, one in parts.items():
            for by in WAYS:
                found[by][part.named(by, template)] += one.amount
    return [Parting(by=by, parts=parts_of(amounts, account.currency)) for by, amounts in found.items()]


def parts_of(amounts: dict[str, Decimal], currency: str) -> list[Part]:
    whole = sum(amounts.values(), Decimal()) or Decimal(1)
    ranked = sorted(amounts.items(), key=lambda one: -one[1])
    return [Part(name=name, amount=say_money(amount, currency), share=float(amount / whole)) for name, amount in ranked if amount]


def _budget(number: int, budget: Budget, account: Account) -> BudgetState:
    spent = account.between(budget.group, budget.since(account.today), account.today)
    most = say_money(budget.at_most, account.currency)
    return BudgetState(
        number=number,
        text=f"{budget.whose}: at most {most} a {budget.each}",
        spent=say_money(spent, account.currency),
        share=float(spent / budget.at_most),
        over=spent > budget.at_most,
    )


def curve(live: Live, account: Account, budgets: list[Budget]) -> Curve:
    """How the sum grows to the end of what lives; the account is without what was brought of the past."""
    zone, currency = live.plan.zone, live.plan.currency
    first = datetime.fromtimestamp(live.first, zone)
    midnight = first.replace(hour=0, minute=0, second=0, microsecond=0, tzinfo=None)
    number = round(live.begun.days) + 1
    ends = [(midnight + timedelta(days=n + 1)).replace(tzinfo=zone).timestamp() for n in range(number)]
    ends = [min(end, live.ends) for end in ends if end - DAY < live.ends - 1]
    days = [datetime.fromtimestamp(end - 1, zone).date() for end in ends]
    sums = np.cumsum([float(account.between(None, day, day)) for day in days])
    lived = np.where(np.array(ends) <= live.now, sums, np.nan)
    now = float(sum((life.spent() for life in live.everyone.values()), Decimal()))
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
