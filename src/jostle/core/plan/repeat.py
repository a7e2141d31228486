"""The rule by which an entry comes again: one line of RFC 5545, in the parts that an hour or longer needs.

Like the cogs of a striking clock, a rule goes round in steps of its frequency times its interval. It is walked a bounded
number of steps at a time, from the step that the wanted span begins in, however far that lies from its beginning.
"""

import re
from calendar import isleap, monthrange
from collections.abc import Iterator, Sequence
from datetime import date, datetime, time, timedelta
from functools import lru_cache
from itertools import islice

from dateutil.rrule import rrulestr

from jostle.core.plan.measure import wrong

MOST_COUNT = 10_000
MOST_INTERVAL = 1_000
WEEK = ("MO", "TU", "WE", "TH", "FR", "SA", "SU")
LAST = datetime(9998, 1, 1)
# Steps that are walked to see whether a rule comes: more than eight years of hours, a hundred years of months
_STEPS_TRIED = {"YEARLY": 120, "MONTHLY": 1_200, "WEEKLY": 5_000, "DAILY": 15_000, "HOURLY": 80_000}

_EXAMPLE = "write an RFC 5545 rule such as FREQ=WEEKLY;BYDAY=MO,TU"
_LIST = re.compile(r"[-+]?\d{1,3}(?:,[-+]?\d{1,3}){0,399}", re.ASCII)
_DAY = r"(?:[-+]?\d{1,2})?(?:MO|TU|WE|TH|FR|SA|SU)"
_PARTS = {
    "FREQ": re.compile("|".join(_STEPS_TRIED)),
    "INTERVAL": re.compile(r"\d{1,4}", re.ASCII),
    "COUNT": re.compile(r"\d{1,5}", re.ASCII),
    "UNTIL": re.compile(r"\d{8}(?:T\d{6}Z?)?", re.ASCII),
    "WKST": re.compile("MO|TU|WE|TH|FR|SA|SU"),
    "BYDAY": re.compile(
        r"(?:[-+]?\d{1,2})?(?:MO|TU|WE|TH|FR|SA|SU)(?:,(?:[-+]?\d{1,2})?(?:MO|TU|WE|TH|FR|SA|SU)){0,99}", re.ASCII
    ),
    **dict.fromkeys(("BYMONTH", "BYMONTHDAY", "BYYEARDAY", "BYWEEKNO", "BYSETPOS", "BYHOUR"), _LIST),
    "BYMINUTE": re.compile(r"[0-5]?\d", re.ASCII),
    "BYSECOND": re.compile(r"[0-5]?\d", re.ASCII),
}


def read_rule(value: object) -> str:
    """A rule in capitals, without its name. Raises where it is not one line of known parts."""
    text = str(value).strip().upper().removeprefix("RRULE:")
    if len(text) > 2000 or len(text.splitlines()) != 1:
        raise wrong(f"{_EXAMPLE}, one line of at most 2,000 characters")
    parts: dict[str, str] = {}
    for part in text.removesuffix(";").split(";"):
        name, _, given = part.partition("=")
        if name in parts or name not in _PARTS or not _PARTS[name].fullmatch(given):
            raise wrong(f"{_EXAMPLE}; {part[:40]} is {_misfit(name, given, parts)}")
        parts[name] = given
    if "FREQ" not in parts:
        raise wrong(f"{_EXAMPLE}; FREQ is missing")
    if not 1 <= int(parts.get("INTERVAL", 1)) <= MOST_INTERVAL:
        raise wrong(f"INTERVAL lies between 1 and {MOST_INTERVAL:,}; write INTERVAL=1 or leave it out")
    if not 1 <= int(parts.get("COUNT", 1)) <= MOST_COUNT:
        raise wrong(f"COUNT lies between 1 and {MOST_COUNT:,}")
    if "COUNT" in parts and "UNTIL" in parts:
        raise wrong("a rule ends by COUNT or by UNTIL, not by both")
    rule = ";".join(f"{name}={given}" for name, given in parts.items())
    try:
        rrulestr(rule, dtstart=datetime(2025, 1, 1), ignoretz=True)
    except (ValueError, TypeError, KeyError, AttributeError, IndexError) as error:
        raise wrong(f"{_EXAMPLE} ({error})") from None
    return rule


def rule_of_days(days: Sequence[str], last: str | None) -> str | None:
    """The rule of an entry that comes on certain days of the week, up to a last date; None where there is no day."""
    chosen = [day for day in WEEK if day in days]
    if not chosen:
        return None
    rule = "FREQ=DAILY" if len(chosen) == len(WEEK) else f"FREQ=WEEKLY;BYDAY={','.join(chosen)}"
    return rule if last is None else f"{rule};UNTIL={last.replace('-', '')}T235959"


def days_of_rule(rule: str | None) -> tuple[list[str], str | None] | None:
    """The days of the week on which a rule comes, and its last date; None where it says more than that."""
    if rule is None:
        return [], None
    parts = dict(part.split("=", 1) for part in rule.split(";"))
    until = parts.pop("UNTIL", "")
    last = f"{until[:4]}-{until[4:6]}-{until[6:8]}" if until else None
    days = parts.get("BYDAY", "").split(",")
    if parts == {"FREQ": "DAILY"}:
        return list(WEEK), last
    plain = set(parts) == {"FREQ", "BYDAY"} and parts["FREQ"] == "WEEKLY" and all(day in WEEK for day in days)
    return (days, last) if plain else None


def _misfit(name: str, given: str, parts: dict[str, str]) -> str:
    if name in parts:
        return "there twice"
    if name == "FREQ" and given in ("MINUTELY", "SECONDLY"):
        return "too often: an entry repeats by the hour at most"
    if name in ("BYMINUTE", "BYSECOND"):
        return "too often: an entry comes once an hour at most"
    return "not a part of it" if name not in _PARTS else "not written as the standard has it"


def comings(rule: str, begin: datetime, first: datetime, last: datetime) -> list[datetime]:
    """Times from `first` to `last` at which a rule that begins at `begin` comes, all on one wall clock, in order.

    An UNTIL is taken as a time on that clock. The steps walked are those of the span, not those since the beginning.
    """
    begin = begin.replace(microsecond=0)
    cogs, low = _cogs(rule, begin), max(first, begin)
    return list(cogs.walk(low, last, cogs.steps_to(low, last))) if low <= last else []


def ever_comes(rule: str, begin: datetime) -> bool:
    """Whether a rule comes at all, as far as the years after its beginning tell."""
    return _cogs(rule, begin.replace(microsecond=0)).first is not None


def comes_so_often(rule: str, begin: datetime) -> bool:
    """Whether a rule comes as often as its COUNT says within the steps that are walked for it."""
    return _cogs(rule, begin.replace(microsecond=0)).counted


class _Cogs:
    """A rule wound up at its beginning: what the beginning implies is said, so that it can be taken up at any step."""

    def __init__(self, rule: str, begin: datetime) -> None:
        parts = dict(part.split("=", 1) for part in rule.split(";"))
        self.begin = begin
        self.frequency = parts["FREQ"]
        self.interval = int(parts.get("INTERVAL", 1))
        self.week_start = WEEK.index(parts.get("WKST", "MO"))
        self._read_days(parts)
        self.hours = sorted(_numbers(parts, "BYHOUR")) or ([begin.hour] if self.frequency != "HOURLY" else list(range(24)))
        self.minute, self.second = int(parts.get("BYMINUTE", begin.minute)), int(parts.get("BYSECOND", begin.second))
        self.places = sorted(_numbers(parts, "BYSETPOS"))
        self.ends = _until(parts["UNTIL"]) if "UNTIL" in parts else LAST
        wanted = int(parts.get("COUNT", 1))
        found = list(islice(self.walk(begin, LAST, _STEPS_TRIED[self.frequency]), wanted))
        self.first = found[0] if found else None
        self.counted = "COUNT" not in parts or len(found) == wanted
        if "COUNT" in parts:
            self.ends = found[-1] if found else begin

    def _read_days(self, parts: dict[str, str]) -> None:
        """Which days fit. With no part that says so, the beginning does."""
        self.months, self.weeks = _numbers(parts, "BYMONTH"), _numbers(parts, "BYWEEKNO")
        self.month_days, self.year_days = _numbers(parts, "BYMONTHDAY"), _numbers(parts, "BYYEARDAY")
        days = [(int(one[:-2] or 0), WEEK.index(one[-2:])) for one in parts["BYDAY"].split(",")] if "BYDAY" in parts else []
        nth = self.frequency in ("YEARLY", "MONTHLY")
        self.weekdays = {day for number, day in days if not (number and nth)}
        self.nth_days = {(number, day) for number, day in days if number and nth}
        self.nth_of_month = self.frequency == "MONTHLY" or bool(self.months)
        if not (self.weeks or self.month_days or self.year_days or days):
            match self.frequency:
                case "YEARLY":
                    self.months = self.months or {self.begin.month}
                    self.month_days = {self.begin.day}
                case "MONTHLY":
                    self.month_days = {self.begin.day}
                case "WEEKLY":
                    self.weekdays = {self.begin.weekday()}
                case _:
                    pass

    def walk(self, first: datetime, last: datetime, steps: int) -> Iterator[datetime]:
        """Times from `first`, which is not before the beginning, to `last`, within so many steps."""
        step = self._step_of(first)
        last = min(last, self.ends)
        for number in range(step, step + steps):
            days, hours = self._period(number)
            if not days or datetime.combine(days[0], time(hours[0] if hours else 0)) > last:
                return
            times = [
                datetime.combine(day, time(hour, self.minute, self.second)) for day in days if self._fits(day) for hour in hours
            ]
            if self.places:
                times = [
                    times[k] for k in sorted({p - 1 if p > 0 else len(times) + p for p in self.places}) if 0 <= k < len(times)
                ]
            yield from (one for one in times if first <= one <= last)

    def steps_to(self, first: datetime, last: datetime) -> int:
        """How many steps lie in a span."""
        return self._step_of(last) - self._step_of(first) + 2

    def _step_of(self, moment: datetime) -> int:
        """The number of the step, from that of the beginning on, in which a moment lies or that comes before it."""
        begin = self.begin
        match self.frequency:
            case "YEARLY":
                periods = moment.year - begin.year
            case "MONTHLY":
                periods = (moment.year - begin.year) * 12 + moment.month - begin.month
            case "WEEKLY":
                periods = (moment.date() - self._week_of(begin.date())).days // 7
            case "DAILY":
                periods = (moment.date() - begin.date()).days
            case _:
                periods = (moment - begin.replace(minute=0, second=0)) // timedelta(hours=1)
        return periods // self.interval

    def _period(self, step: int) -> tuple[list[date], list[int]]:
        """The days of a step and the hours in it at which it may come; no days where the calendar ends."""
        begin, periods = self.begin, step * self.interval
        try:
            match self.frequency:
                case "YEARLY":
                    return _days(date(begin.year + periods, 1, 1), date(begin.year + periods + 1, 1, 1)), self.hours
                case "MONTHLY":
                    number = begin.year * 12 + begin.month - 1 + periods
                    year, month = divmod(number, 12)
                    return _days(date(year, month + 1, 1), date(year + (month == 11), (month + 1) % 12 + 1, 1)), self.hours
                case "WEEKLY":
                    monday = self._week_of(begin.date()) + timedelta(weeks=periods)
                    return _days(monday, monday + timedelta(weeks=1)), self.hours
                case "DAILY":
                    return [begin.date() + timedelta(days=periods)], self.hours
                case _:
                    hour = begin.replace(minute=0, second=0) + timedelta(hours=periods)
        except (ValueError, OverflowError):
            return [], []
        return [hour.date()], [hour.hour] if hour.hour in self.hours else []

    def _fits(self, day: date) -> bool:
        month_long = monthrange(day.year, day.month)[1]
        year_day, year_long = day.timetuple().tm_yday, 366 if isleap(day.year) else 365
        return (
            (not self.months or day.month in self.months)
            and (not self.weeks or not self.weeks.isdisjoint(self._week_numbers(day)))
            and (not (self.weekdays or self.nth_days) or day.weekday() in self.weekdays or self._is_nth(day))
            and (not self.month_days or not self.month_days.isdisjoint((day.day, day.day - month_long - 1)))
            and (not self.year_days or not self.year_days.isdisjoint((year_day, year_day - year_long - 1)))
        )

    def _is_nth(self, day: date) -> bool:
        """Whether it is the first, second, last ... of its weekday in the month or the year."""
        if self.nth_of_month:
            place, long = day.day, monthrange(day.year, day.month)[1]
        else:
            place, long = day.timetuple().tm_yday, 366 if isleap(day.year) else 365
        numbers = ((place - 1) // 7 + 1, -((long - place) // 7 + 1))
        return any((number, day.weekday()) in self.nth_days for number in numbers)

    def _week_of(self, day: date) -> date:
        return day - timedelta(days=(day.weekday() - self.week_start) % 7)

    def _week_numbers(self, day: date) -> tuple[int, int]:
        """The number of a day's week in the year that holds the most of it, from the first and from the last."""
        middle = self._week_of(day) + timedelta(days=3)
        number = (middle.timetuple().tm_yday - 1) // 7 + 1
        last = self._week_of(date(middle.year, 12, 28)) + timedelta(days=3)
        return number, number - ((last.timetuple().tm_yday - 1) // 7 + 1) - 1


def _numbers(parts: dict[str, str], name: str) -> set[int]:
    return {int(one) for one in parts[name].split(",")} if name in parts else set()


def _days(first: date, end: date) -> list[date]:
    return [first + timedelta(days=k) for k in range((end - first).days)]


def _until(text: str) -> datetime:
    text = text.removesuffix("Z")
    return datetime.strptime(text, "%Y%m%dT%H%M%S") if "T" in text else datetime.strptime(text, "%Y%m%d")


@lru_cache(maxsize=512)
def _cogs(rule: str, begin: datetime) -> _Cogs:
    return _Cogs(rule, begin)
