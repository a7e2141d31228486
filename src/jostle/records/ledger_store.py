"""The ledger of what lives, as it is kept: hour by hour as they end, never rewritten; what turns out otherwise is entered as a
correction."""

import math
from collections import Counter, defaultdict
from collections.abc import Iterable, Iterator
from datetime import date, datetime
from decimal import Decimal
from typing import NamedTuple
from zoneinfo import ZoneInfo

from jostle.core.costs.account import NOTHING, About, Account, Kept, Sum
from jostle.core.costs.ledger import LEAST, WIDE, Hour, Ledger, last_edge
from jostle.core.costs.part import Part
from jostle.core.plan.tariff import MICROS
from jostle.formats.costs_csv import BY_INSTANCE, Form, Spent
from jostle.live.life import Life
from jostle.live.live import Live
from jostle.live.spent import spent
from jostle.records.store import NotKept, Store

BILLION = 10**9
# What the sum of a ledger may differ by from the bills: its amounts are told to the billionth of a billionth
SAME = Decimal("1e-9")

_HOUR = f"INSERT INTO ledger_hour VALUES ({', '.join('?' * 19)})"
_AMOUNT = "INSERT INTO ledger_amount VALUES (?, ?, ?, ?, ?, ?, ?, ?)"
_DAY = """
    INSERT INTO ledger_day VALUES (?, ?, ?, ?, ?, ?, ?) ON CONFLICT DO UPDATE SET micros = micros + excluded.micros,
    whole = whole + excluded.whole, billionths = billionths + excluded.billionths, rest = rest + excluded.rest
"""
_WHOLE_DAY = """
    INSERT INTO ledger_whole_day VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, 0, 0, 0, 0) ON CONFLICT DO UPDATE SET
    serving_low = MIN(serving_low, excluded.serving_low), serving_high = MAX(serving_high, excluded.serving_high),
    served = served + excluded.served, demand = demand + excluded.demand, late = late + excluded.late,
    seen_late = seen_late + excluded.seen_late
"""
_TO_WHOLE_DAY = """
    UPDATE ledger_whole_day SET whole = whole + ?, billionths = billionths + ?, rest = rest + ?, corrected = corrected + ?
    WHERE plan_id = ? AND day = ? AND group_name = ?
"""
_COURSE = "INSERT INTO ledger_course VALUES (?, ?, ?) ON CONFLICT DO UPDATE SET billed = billed + excluded.billed"
TABLES = ("course", "whole_day", "day", "amount", "hour", "part", "group")
_GROUP = "INSERT OR REPLACE INTO ledger_group VALUES (?, ?, ?, ?)"
_SUMS = "SUM(micros), SUM(whole), SUM(billionths), SUM(rest)"


class HourSum(NamedTuple):
    """What an hour of a group came to for one part; `begin` and `end` are s since 1970."""

    begin: float
    end: float
    group: str
    part: Part
    sum: Sum


class LedgerStore:
    """The part of the records that is about what was spent. What is entered is entered within a transaction of the caller."""

    def __init__(self, store: Store) -> None:
        self.store = store
        self._until: dict[int, dict[str, float]] = {}

    def until(self, plan_id: int) -> dict[str, float]:
        """The end of the last hour that is entered of each group, s since 1970."""
        query = "SELECT group_name, MAX(ends) FROM ledger_hour WHERE plan_id = ? GROUP BY group_name"
        with self.store.reading():
            return {group: float(end) for group, end in self.store.asked(query, plan_id)}

    def enter(self, plan_id: int, live: Live, late: bool = False, over: bool = False) -> None:
        """Enter all hours that are over since the last that is entered, and the one that has not where it is `over`; `late`
        marks those that are seen only now. Where that cannot be kept, `forget` is to be called."""
        if plan_id not in self._until:
            self._until[plan_id] = self.until(plan_id)
        known = self._until[plan_id]
        over = over or live.now >= live.ends
        for name, life in live.everyone.items():
            since = known.get(name, life.clock.first)
            end = life.clock.first + life.time
            if not over:
                end = last_edge(life.clock, end)
            if since < end - 1e-6:
                self._enter(plan_id, name, life, since, end, late, over)
                known[name] = end

    def forget(self, plan_id: int) -> None:
        """Forget what was thought to be entered."""
        self._until.pop(plan_id, None)

    def _enter(self, plan_id: int, name: str, life: Life, since: float, end: float, late: bool, over: bool) -> None:
        book = life.ledger(since - life.clock.first, closed=not over)
        zone, hours = life.clock.zone, [hour for hour in book.hours if hour.end <= end + 1e-6]
        crew = life.leg.crew
        self.store.put_many(_GROUP, [(plan_id, name, crew.launch.template, crew.group.work.kind)])
        self.store.put_many(_HOUR, (_hour_row(plan_id, name, hour, late) for hour in hours))
        if not crew.group.host:
            # Copies are no instances that are paid for.
            self.store.put_many(_COURSE, ((plan_id, round(hour.begin), hour.billed[1]) for hour in hours))
        days = ((hour.day(zone).toordinal(), hour) for hour in hours)
        whole = (
            (plan_id, day, name, hour.serving[0], hour.serving[2], hour.served, hour.demand, hour.late, late)
            for day, hour in days
        )
        self.store.put_many(_WHOLE_DAY, whole)
        summed = _summed(book)
        numbers = self._numbers(plan_id, name, summed)
        rows = [
            (round(hours[hour].begin), hours[hour].day(zone), numbers[part], found)
            for (hour, part), found in summed.items()
            if hour < len(hours)
        ]
        self._put(plan_id, name, rows, 0)

    def _put(self, plan_id: int, group: str, rows: list[tuple[int, date, int, Sum]], correction: int) -> None:
        told = [(begin, day, part, _micros(found), *_whole(found.amount)) for begin, day, part, found in rows]
        amounts = ((plan_id, begin, part, correction, *whole) for begin, _, part, *whole in told)
        self.store.put_many(_AMOUNT, amounts)
        days: dict[tuple[int, int], list[int]] = defaultdict(lambda: [0, 0, 0, 0])
        for _, day, part, *whole in told:
            kept = days[day.toordinal(), part]
            kept[:] = (before + more for before, more in zip(kept, whole, strict=True))
        self.store.put_many(_DAY, ((plan_id, part, day, *whole) for (day, part), whole in days.items()))
        corrected = Counter(day.toordinal() for _, day, *_ in told) if correction else Counter()
        whole_days = ((*amount, corrected.pop(day, 0), plan_id, day, group) for (day, _), (_, *amount) in days.items())
        self.store.put_many(_TO_WHOLE_DAY, whole_days)

    def _numbers(self, plan_id: int, group: str, summed: Iterable[tuple[int, Part]]) -> dict[Part, int]:
        """The number of each part of a group; those that were not there yet are given one."""
        parts = {part for _, part in summed}
        wanted = f"INSERT OR IGNORE INTO ledger_part VALUES (NULL, {', '.join('?' * 8)})"
        self.store.put_many(wanted, ((plan_id, group, *part) for part in sorted(parts)))
        return {part: number for number, (whose, part) in self.parts(plan_id).items() if whose == group}

    def correct(self, plan_id: int, live: Live) -> int:
        """Where what was lived comes to other amounts than were entered, enter what they differ by. Returns how many rows."""
        corrected, known = 0, self.until(plan_id)
        for name, life in live.everyone.items():
            if (end := known.get(name)) is None:
                continue
            kept = self._amounts(plan_id, name)
            rest = life.ledger(end - life.clock.first).total()
            if abs(sum((one.amount for one in kept.values()), Decimal()) + rest - life.spent()) < SAME:
                continue
            book = life.ledger(closed=live.now < live.ends)
            summed = _summed(book)
            numbers = self._numbers(plan_id, name, summed)
            owed = {
                (round(book.hours[hour].begin), numbers[part]): found
                for (hour, part), found in summed.items()
                if book.hours[hour].end <= end + 1e-6
            }
            rows = []
            for key in owed.keys() | kept.keys():
                was, found = kept.get(key, NOTHING), owed.get(key, NOTHING)
                differs = Sum(found.seconds - was.seconds, found.amount - was.amount)
                if abs(differs.amount) >= SAME:
                    rows.append((key[0], datetime.fromtimestamp(key[0], life.clock.zone).date(), key[1], differs))
            asked = "SELECT MAX(correction) FROM ledger_amount WHERE plan_id = ?"
            self._put(plan_id, name, sorted(rows), 1 + int(self.store.asked(asked, plan_id)[0][0]))
            corrected += len(rows)
        return corrected

    def _amounts(self, plan_id: int, group: str) -> dict[tuple[int, int], Sum]:
        """What is entered of a group, corrections included, by the begin of the hour and the number of the part."""
        asked = f"""SELECT begin, part_id, {_SUMS} FROM ledger_amount JOIN ledger_part ON ledger_part.id = part_id
            WHERE ledger_amount.plan_id = ? AND group_name = ? GROUP BY begin, part_id"""
        return {(begin, part): _sum(*whole) for begin, part, *whole in self.store.asked(asked, plan_id, group)}

    def make_room(self, plan_id: int, first: float) -> None:
        """Take out all that is entered if an hour of it ends after `first`, when something else begins to live."""
        known = self.span(plan_id)
        if known is None or known[1] <= first:
            return
        for table in TABLES:
            self.store.put_many(f"DELETE FROM ledger_{table} WHERE plan_id = ?", [(plan_id,)])
        self._until.pop(plan_id, None)

    # Read

    def about(self, plan_id: int) -> dict[str, About]:
        """The groups of which something is entered."""
        with self.store.reading():
            rows = self.store.asked("SELECT group_name, template, work FROM ledger_group WHERE plan_id = ?", plan_id)
            return {group: About(template, work) for group, template, work in rows}

    def span(self, plan_id: int) -> tuple[float, float] | None:
        """The begin of the first hour that is entered and the end of the last; None where there is none."""
        with self.store.reading():
            low, high = self.store.asked("SELECT MIN(begin), MAX(ends) FROM ledger_hour WHERE plan_id = ?", plan_id)[0]
            return None if low is None else (float(low), float(high))

    def parts(self, plan_id: int) -> dict[int, tuple[str, Part]]:
        """Group and part by number."""
        with self.store.reading():
            asked = "SELECT id, group_name, what, machine, zone, version, overflow, spot FROM ledger_part WHERE plan_id = ?"
            rows = self.store.asked(asked, plan_id)
            return {
                number: (group, Part(what, machine, zone, version, bool(overflow), bool(spot)))
                for number, group, what, machine, zone, version, overflow, spot in rows
            }

    def sums(self, plan_id: int, begin: date, end: date) -> dict[tuple[str, Part], Sum]:
        """What was spent from one day to another, both included, by group and part."""
        asked = f"""SELECT id, {_SUMS} FROM ledger_part AS part JOIN ledger_day AS sum
            ON sum.plan_id = part.plan_id AND part_id = id WHERE part.plan_id = ? AND day BETWEEN ? AND ? GROUP BY id"""
        with self.store.reading():
            parts = self.parts(plan_id)
            rows = self.store.asked(asked, plan_id, begin.toordinal(), end.toordinal())
            return {parts[number]: _sum(*whole) for number, *whole in rows}

    def days(self, plan_id: int) -> Iterator[tuple[date, str, Part, Sum]]:
        """What was spent on each day, by group and part."""
        with self.store.reading():
            parts = self.parts(plan_id)
            asked = "SELECT day, part_id, micros, whole, billionths, rest FROM ledger_day WHERE plan_id = ?"
            for day, number, *whole in self.store.asked(asked, plan_id):
                yield date.fromordinal(day), *parts[number], _sum(*whole)

    def hours(self, plan_id: int, begin: float, end: float) -> Iterator[HourSum]:
        """What was spent in each hour that begins from one instant to before another, s since 1970."""
        asked = f"""SELECT amount.begin, hour.ends, part_id, {_SUMS} FROM ledger_amount AS amount
            JOIN ledger_part AS part ON part.id = part_id
            JOIN ledger_hour AS hour
            ON hour.plan_id = amount.plan_id AND hour.begin = amount.begin AND hour.group_name = part.group_name
            WHERE amount.plan_id = ? AND amount.begin >= ? AND amount.begin < ? GROUP BY amount.begin, part_id"""
        with self.store.reading():
            parts = self.parts(plan_id)
            for at, ends, number, *whole in self.store.asked(asked, plan_id, begin, end):
                yield HourSum(at, ends, *parts[number], _sum(*whole))

    def told(self, plan_id: int, zone: ZoneInfo, form: Form, live: Live | None) -> Iterator[Spent]:
        """All that is entered, as a form wants it: instances are told apart of what lives. Raises NotKept where nothing does, and
        the form cannot be without."""
        if live is not None and form in BY_INSTANCE:
            return spent(live, self.until(plan_id))
        if form == "instances":
            raise NotKept("this plan lives no more, and only what lives can tell its instances apart")
        return self._by_part(plan_id, zone)

    def _by_part(self, plan_id: int, zone: ZoneInfo) -> Iterator[Spent]:
        for one in self.hours(plan_id, -math.inf, math.inf):
            day = f"{datetime.fromtimestamp(one.begin, zone):%Y-%m-%d}"
            yield Spent(one.begin, one.end, day, one.group, None, "", one.part, *one.sum)

    def add_to(self, account: Account, plan_id: int) -> None:
        """Add all that is entered to an account."""
        asked = """SELECT day, group_name, serving_low, serving_high, served, demand, late, seen_late, corrected,
            whole, billionths, rest FROM ledger_whole_day WHERE plan_id = ?"""
        with self.store.reading():
            rows = self.store.asked(asked, plan_id)
            for ordinal, group, low, high, served, came, late, seen_late, corrected, *whole in rows:
                day = date.fromordinal(ordinal)
                account.by_day[group][day] += _sum(0, *whole).amount
                if account.chooses(day):
                    account.keep(group, Kept(low, high, served, came, late))
                    account.late += seen_late
                    account.corrected += corrected
            counted = "SELECT begin, billed FROM ledger_course WHERE plan_id = ?"
            for begin, count in self.store.asked(counted, plan_id):
                account.counts[account.day(begin)][begin] += count
            for (group, part), found in self.sums(plan_id, account.begin, account.end).items():
                account.chosen[group][part] = account.chosen[group][part].plus(*found)
            if account.begin == account.end:
                for hour in self.hours(plan_id, *account.chosen_span):
                    account.by_hour[hour.begin][hour.group] += hour.sum.amount


def _summed(book: Ledger) -> dict[tuple[int, Part], Sum]:
    """A ledger by the number of the hour and the part."""
    found: dict[tuple[int, Part], Sum] = {}
    for entry in book.entries:
        key = entry.hour, entry.part
        found[key] = found.get(key, NOTHING).plus(entry.seconds, entry.amount)
    return found


def _hour_row(plan_id: int, group: str, hour: Hour, late: bool) -> tuple[object, ...]:
    counts = (*hour.serving, *hour.billed, *hour.stopped)
    rest = (hour.demand, hour.served, hour.failed, hour.short_minutes, hour.late, late)
    return (plan_id, round(hour.begin), group, round(hour.end), *counts, *rest)


def _micros(found: Sum) -> int:
    return int(found.seconds * MICROS)


def _whole(amount: Decimal) -> tuple[int, int, int]:
    """Whole units, billionths, and the rest in billionths of those."""
    units, rest = divmod(int(amount.quantize(LEAST, context=WIDE).scaleb(18, WIDE)), BILLION)
    whole, billionths = divmod(units, BILLION)
    return whole, billionths, rest


def _sum(micros: int, whole: int, billionths: int, rest: int) -> Sum:
    amount = Decimal((whole * BILLION + billionths) * BILLION + rest)
    return Sum(Decimal(micros) / MICROS, amount.scaleb(-18, WIDE))
