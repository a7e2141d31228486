"""What was needed of what was spent, what sleep and spot kept back, and why a day came to what it did."""

from collections import defaultdict
from datetime import date
from decimal import Decimal

from pydantic import BaseModel, Field

from jostle.api.costs_view import Parting, parts_of
from jostle.core.costs.ledger import Hour
from jostle.core.plan.quantity import say_money, say_number, say_price
from jostle.live.difference import Difference, difference
from jostle.live.live import Live
from jostle.live.need import KeptBack, all_kept_back, foresight_cost, need


class Reasons(BaseModel):
    """`kept_back` and `foresight` are of all that was lived, whatever days are chosen."""

    need: Parting
    kept_back: list[str]
    foresight: str


class DifferencePart(BaseModel):
    """One thing, put in place after those before it; `count` is what it made of the mean of paid instances."""

    what: str
    amount: str
    count: str
    more: bool


class DifferenceView(BaseModel):
    group: str
    day: str
    rehearsed: str
    lived: str
    parts: list[DifferencePart] = Field(description="In the order in which they were put in place; they add up")


def reasons_view(live: Live, begin: date | None, end: date | None) -> Reasons:
    """Why it came to what it did from `begin` to `end`, both included; all that was lived if left out."""
    currency = live.plan.currency

    def within(hour: Hour) -> bool:
        day = hour.day(live.plan.zone)
        return (begin is None or day >= begin) and (end is None or day <= end)

    summed: dict[str, Decimal] = defaultdict(Decimal)
    for life in live.lives.values():
        for name, amount in need(life, within).items():
            summed[name] += amount
    kept = [one for life in live.lives.values() for one in all_kept_back(life)]
    least = [foresight_cost(life) for life in live.lives.values()]
    known = sum((one for one in least if one is not None), Decimal())
    spent = sum(
        (life.ledger().total() for life, one in zip(live.lives.values(), least, strict=True) if one is not None), Decimal()
    )
    hosted = any(life.leg.crew.group.shares_hosts for life in live.lives.values())
    return Reasons(
        need=Parting(by="need", parts=parts_of(summed, currency)),
        kept_back=[_kept_back(one, currency) for one in kept],
        foresight=f"foresight would have spent {say_money(known, currency)} for the same demand, "
        f"{say_money(abs(spent - known), currency)} {'less' if spent >= known else 'more'}"
        + (", hosts and guests aside" if hosted else ""),
    )


def difference_view(live: Live, group: str, day: date) -> DifferenceView:
    """Why a day came to another amount than was rehearsed."""
    found, currency = difference(live, group, day), live.plan.currency
    return DifferenceView(
        group=group,
        day=f"{day:%a} {day.day} {day:%b}",
        rehearsed=_said(found, currency, 0),
        lived=f"{say_money(found.lived.amount, currency)}, {say_number(round(found.lived.count, 2))} instances on average",
        parts=[
            DifferencePart(what=what, amount=_signed(amount, currency), count=_turned(count), more=amount > 0)
            for what, amount, count in found.parts
        ],
    )


def _kept_back(one: KeptBack, currency: str) -> str:
    if one.amount < 0:
        return f"{one.by} cost {one.group} {say_money(-one.amount, currency)} more than without"
    return f"{one.by} kept back {say_money(one.amount, currency)} for {one.group}"


def _said(found: Difference, currency: str, place: int) -> str:
    stage = found.stages[place]
    return f"{say_money(stage.amount, currency)}, {say_number(round(stage.count, 2))} instances on average"


def _signed(amount: Decimal, currency: str) -> str:
    shown = Decimal(f"{abs(amount):.3g}")
    return f"{'−' if amount < 0 else '+'} {say_price(shown, currency)}" if amount else "nothing"


def _turned(count: float) -> str:
    return f"{count:+.2f}".replace("-", "−") if abs(count) >= 0.005 else ""
