"""A calendar entry as a sentence: what it orders, from when to when, and on which days it comes again."""

from datetime import date, datetime

from jostle.core.plan.calendar import CalendarEntry, SetCount
from jostle.core.plan.repeat import days_of_rule
from jostle.core.plan.wall import say_moment
from jostle.core.plan.word import Sentence, Word, listed, say, say_count, time_word

_DAYS = {"MO": "Monday", "TU": "Tuesday", "WE": "Wednesday", "TH": "Thursday", "FR": "Friday", "SA": "Saturday", "SU": "Sunday"}
_WEEK, _WEEKEND = ["MO", "TU", "WE", "TH", "FR"], ["SA", "SU"]
_EVERY = {"HOURLY": "hour", "DAILY": "day", "WEEKLY": "week", "MONTHLY": "month", "YEARLY": "year"}


def entry_sentence(entry: CalendarEntry) -> Sentence:
    """A sentence whose words stand for the entry's settings."""
    path = f"calendar.{entry.name}"
    words = [*entry.order(path), *_when(entry, path), say(".")]
    if entry.paused:
        words = [say("Paused: "), *words]
    return Sentence(key=path, tone="paused" if entry.paused else "calendar", words=words)


def say_repeat(rule: str | None) -> str:
    """`every day`, `every Monday and Tuesday until 31 Aug`, or the rule itself where it says more than that."""
    if rule is None:
        return ""
    known = days_of_rule(rule)
    if known is None:
        every = dict(part.split("=", 1) for part in rule.split(";"))
        return f"every {_EVERY[every['FREQ']]}" if set(every) == {"FREQ"} else f"by the rule {rule}"
    days, last = known
    until = f" until {say_day(last)}" if last else ""
    if len(days) == len(_DAYS):
        return f"every day{until}"
    if days in (_WEEK, _WEEKEND):
        return f"{'on weekdays' if days == _WEEK else 'at weekends'}{until}"
    return f"every {listed(_DAYS[day] for day in days)}{until}"


def _when(entry: CalendarEntry, path: str) -> list[Word]:
    begin = datetime.fromisoformat(entry.begin)
    again = say_repeat(entry.repeat)
    by_the_day = again.startswith(("every", "on", "at"))
    lead = say(" at " if isinstance(entry, SetCount) else " from ")
    if by_the_day:
        words = [lead, Word(text=f"{begin:%H:%M}", path=f"{path}.from", value=f"{begin:%H:%M}")]
    else:
        words = [lead, Word(text=say_moment(begin), path=f"{path}.from", value=entry.begin)]
    if entry.length is not None:
        words += [say(" for "), time_word(f"{path}.for", entry.length)]
    elif entry.until is not None:
        words += [say(" until "), Word(text=entry.until, path=f"{path}.until", value=entry.until)]
    words += [say(", "), Word(text=again or "once", path=f"{path}.repeat", value=entry.repeat)]
    if by_the_day:
        words += [say(", first on "), Word(text=say_day(entry.begin[:10]), path=f"{path}.first", value=entry.begin)]
    if entry.excepted:
        words += [say(", but for "), Word(text=_days(entry.excepted), path=f"{path}.except", value=entry.excepted)]
    if entry.also:
        words.append(say(f", and {say_count(len(entry.also), 'single time')} besides"))
    if entry.zone:
        words += [say(", by the clock of "), Word(text=entry.zone, path=f"{path}.zone", value=entry.zone)]
    return words


def _days(days: list[str]) -> str:
    """The exceptions by name while they are few."""
    return listed(say_day(day) for day in days) if len(days) < 3 else say_count(len(days), "day")


def say_day(day: str) -> str:
    """`Thu 10 Jul`."""
    read = date.fromisoformat(day)
    return f"{read:%a} {read.day} {read:%b}"
