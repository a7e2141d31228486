"""What an amount is made of: the instances of a span that it was paid for, and what groups pay for themselves."""

from collections import defaultdict
from datetime import date
from decimal import Decimal

from pydantic import BaseModel, Field

from jostle.api.costs_view import span_text
from jostle.core.costs.books import Books
from jostle.core.costs.ledger import Entry
from jostle.core.costs.part import STOPPED, By
from jostle.core.plan.problem import PlanError, Problem
from jostle.core.plan.quantity import say_duration, say_money

MOST_ROWS = 60


class Made(BaseModel):
    """One of those that an amount was paid for; `instance` is counted from 1, null for what the group pays for itself."""

    group: str
    instance: int | None
    text: str
    amount: str
    share: float


class MadeOf(BaseModel):
    title: str
    amount: str
    rows: list[Made] = Field(description="The dearest first")
    more: str = Field(description="What is not in the rows, in words")


def made_of(books: Books, begin: date, end: date, group: str | None, by: By | None, part: str | None) -> MadeOf:
    """What was spent from one day to another, both included; of a group, and of one part of the amount, where those are named.
    Raises PlanError where there is no such group."""
    if group is not None and group not in books.of:
        raise PlanError([Problem(("group",), group, f"spent nothing here; there is: {', '.join(books.of)}")])
    paid: dict[tuple[str, int | None, str], list[Entry]] = defaultdict(list)
    for name in books.of if group is None else [group]:
        book = books.of[name]
        for entry in books.within(name, begin, end):
            if by is None or entry.part.named(by, book.template) == part:
                # What a group pays for itself is told by what it is for.
                paid[name, entry.instance, "" if entry.instance is not None else entry.part.what].append(entry)
    sums = {key: sum((entry.amount for entry in entries), Decimal()) for key, entries in paid.items()}
    whole = sum(sums.values(), Decimal())
    ranked = sorted(sums, key=lambda key: -sums[key])
    rest = sum((sums[key] for key in ranked[MOST_ROWS:]), Decimal())
    return MadeOf(
        title=", ".join(part for part in (group or "all groups", part or "", span_text(begin, end)) if part),
        amount=say_money(whole, books.currency),
        rows=[
            Made(
                group=key[0],
                instance=None if key[1] is None else key[1] + 1,
                text=_text(key, paid[key]),
                amount=say_money(sums[key], books.currency),
                share=float(sums[key] / whole) if whole else 0.0,
            )
            for key in ranked[:MOST_ROWS]
        ],
        more=f"{len(ranked) - MOST_ROWS} more: {say_money(rest, books.currency)}" if len(ranked) > MOST_ROWS else "",
    )


def _text(key: tuple[str, int | None, str], entries: list[Entry]) -> str:
    """How long it ran, where, and of what kind."""
    _, instance, what = key
    if instance is None:
        return what
    part = entries[0].part
    ran = sum((entry.seconds for entry in entries if entry.part.what == "machine"), Decimal())
    stood = sum((entry.seconds for entry in entries if entry.part.what == STOPPED), Decimal())
    parts = [
        f"ran {say_duration(round(float(ran)))}" if ran else "",
        f"stood {say_duration(round(float(stood)))}" if stood else "",
        part.zone,
        f"{part.machine}, version {part.version}",
        "spot" if part.spot else "",
        "overflow" if part.overflow else "",
    ]
    return ", ".join(said for said in parts if said)
