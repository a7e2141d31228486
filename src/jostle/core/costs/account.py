"""What was spent, summed as it is looked at: by day for all that is known, and by part for the days that are chosen."""

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass, field
from datetime import date, datetime, time, timedelta
from decimal import Decimal
from typing import NamedTuple
from zoneinfo import ZoneInfo

from jostle.core.costs.books import PastSpan, ledger_of_past
from jostle.core.costs.ledger import Ledger
from jostle.core.costs.part import Part
from jostle.core.plan.work import KindOfWork


class Sum(NamedTuple):
    """`seconds` are those that instances ran or stood, told once, with the machine."""

    seconds: Decimal
    amount: Decimal

    def plus(self, seconds: Decimal, amount: Decimal) -> "Sum":
        return Sum(self.seconds + seconds, self.amount + amount)


NOTHING = Sum(Decimal(), Decimal())


class Kept(NamedTuple):
    """How many instances of a group served in the chosen days, least and most; how much was served, came, and was late."""

    low: int
    high: int
    served: float = 0.0
    came: float = 0.0
    late: float = 0.0

    def and_with(self, other: "Kept") -> "Kept":
        low, high = min(self.low, other.low), max(self.high, other.high)
        return Kept(low, high, self.served + other.served, self.came + other.came, self.late + other.late)


class About(NamedTuple):
    """What the amounts of a group do not say themselves: its template, and its work where it lives or lived here."""

    template: str = ""
    work: KindOfWork | None = None


@dataclass
class Account:
    """Amounts of groups on the days of a zone. `begin` and `end` are the chosen days, both included; `first`, `now` and `ends` (s
    since 1970) are the first instant that is known, now, and the end of what lives."""

    zone: ZoneInfo
    currency: str
    first: float
    now: float
    ends: float
    begin: date
    end: date
    # Whether something lives; what lived before it was ended, or was brought, may stand alone
    lives: bool = False
    about: dict[str, About] = field(default_factory=dict)
    by_day: dict[str, dict[date, Decimal]] = field(default_factory=lambda: defaultdict(lambda: defaultdict(Decimal)))
    # Mean instances paid for in each hour of each day (s since 1970), all groups together
    counts: dict[date, dict[float, float]] = field(default_factory=lambda: defaultdict(lambda: defaultdict(float)))
    chosen: dict[str, dict[Part, Sum]] = field(default_factory=lambda: defaultdict(lambda: defaultdict(lambda: NOTHING)))
    kept: dict[str, Kept] = field(default_factory=dict)
    # By hour (s since 1970) and group, where one day alone is chosen
    by_hour: dict[float, dict[str, Decimal]] = field(default_factory=lambda: defaultdict(lambda: defaultdict(Decimal)))
    # Of the chosen days: hours that were entered only after a stop, and amounts that were corrected
    late: int = 0
    corrected: int = 0
    # Hours that were brought of the time before anything lived here
    brought: int = 0

    @property
    def groups(self) -> list[str]:
        return list(dict.fromkeys([*self.about, *self.by_day]))

    @property
    def today(self) -> date:
        return max(self.day(self.first), self.day(self.now - 1))

    def day(self, at: float) -> date:
        return datetime.fromtimestamp(at, self.zone).date()

    @property
    def chosen_span(self) -> tuple[float, float]:
        """Where the chosen days begin and end, s since 1970."""
        days = self.begin, self.end + timedelta(days=1)
        low, high = (datetime.combine(day, time(), self.zone).timestamp() for day in days)
        return low, high

    def chooses(self, day: date) -> bool:
        return self.begin <= day <= self.end

    def between(self, group: str | None, begin: date, end: date) -> Decimal:
        """What was spent from one day to another, both included, by a group or all of them."""
        names = self.groups if group is None else [group]
        told = ((day, amount) for name in names if name in self.by_day for day, amount in self.by_day[name].items())
        return sum((amount for day, amount in told if begin <= day <= end), Decimal())

    def keep(self, group: str, kept: Kept) -> None:
        self.kept[group] = kept if group not in self.kept else self.kept[group].and_with(kept)

    def take(self, group: str, book: Ledger) -> None:
        """Add hours of a group with their amounts."""
        days = [self.day(hour.begin) for hour in book.hours]
        for day, hour in zip(days, book.hours, strict=True):
            if hour.end == hour.begin:
                continue
            self.counts[day][hour.begin] += hour.billed[1]
            if self.chooses(day):
                self.keep(group, Kept(hour.serving[0], hour.serving[2], hour.served, hour.demand, hour.late))
        for entry in book.entries:
            day = days[entry.hour]
            self.by_day[group][day] += entry.amount
            if self.chooses(day):
                self.chosen[group][entry.part] = self.chosen[group][entry.part].plus(entry.seconds, entry.amount)
                if self.begin == self.end:
                    self.by_hour[book.hours[entry.hour].begin][group] += entry.amount

    def take_past(self, past: Iterable[PastSpan]) -> None:
        """Add what was brought of the time before anything lived here."""
        for one in past:
            self.brought += one.hours
            self.take(one.group, ledger_of_past([one]))
