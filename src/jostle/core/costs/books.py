"""The ledgers of several groups side by side, what was brought of the time before they lived included."""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from datetime import date, datetime
from decimal import Decimal
from typing import NamedTuple
from zoneinfo import ZoneInfo

from jostle.core.costs.ledger import Entry, Hour, Ledger, blank_hour
from jostle.core.costs.part import BROUGHT, Part

HOUR = 3600.0
# Amounts that are brought are told to the billionth
BILLIONTHS = 10**9


class PastSpan(NamedTuple):
    """Hours of a group that were paid for before it lived here; `begin` is s since 1970, `instances` the mean of those paid."""

    begin: float
    hours: int
    group: str
    instances: float
    amount: Decimal

    @property
    def end(self) -> float:
        """s since 1970."""
        return self.begin + self.hours * HOUR


@dataclass(frozen=True)
class Book:
    """The ledger of one group, with what its entries do not say."""

    hours: list[Hour]
    entries: list[Entry]
    template: str = ""


@dataclass(frozen=True)
class Books:
    """Ledgers by group, and the span that they are about: its first instant, now, and its end (s since 1970)."""

    zone: ZoneInfo
    currency: str
    first: float
    now: float
    ends: float
    of: dict[str, Book]

    @property
    def days(self) -> tuple[date, date]:
        """The first day and today, on the clock of their zone."""
        first, today = (datetime.fromtimestamp(at, self.zone).date() for at in (self.first, self.now - 1))
        return first, max(first, today)

    def within(self, group: str, begin: date, end: date) -> Iterator[Entry]:
        """The amounts of a group on the days from one to another, both included."""
        book = self.of[group]
        inside = [begin <= hour.day(self.zone) <= end for hour in book.hours]
        return (entry for entry in book.entries if inside[entry.hour])


def with_past(books: Books, past: Iterable[PastSpan]) -> Books:
    """The same with what was brought of the time before theirs."""
    found, first = dict(books.of), books.first
    by_group: dict[str, list[PastSpan]] = {}
    for one in past:
        if one.begin < books.first:
            by_group.setdefault(one.group, []).append(one)
            first = min(first, one.begin)
    for group, ones in by_group.items():
        own, before = found.get(group, Book([], [])), ledger_of_past(sorted(ones))
        later = [entry._replace(hour=entry.hour + len(before.hours)) for entry in own.entries]
        found[group] = replace(own, hours=before.hours + own.hours, entries=before.entries + later)
    return replace(books, first=first, of=found)


def past_alone(past: list[PastSpan], zone: ZoneInfo, currency: str) -> Books:
    """What was brought, where nothing lives."""
    last = max(one.end for one in past)
    return with_past(Books(zone, currency, last, last, last, {}), past)


def ledger_of_past(spans: list[PastSpan]) -> Ledger:
    """What was brought of one group, each span as if it were an hour."""
    found = Ledger([], [])
    for number, one in enumerate(spans):
        count = round(one.instances), one.instances, round(one.instances)
        found.hours.append(replace(blank_hour(one.begin, one.end), serving=count, billed=count))
        seconds = Decimal(str(one.instances)) * one.hours * 3600
        found.entries.append(Entry(number, None, Part(BROUGHT), seconds, one.amount))
    return found
