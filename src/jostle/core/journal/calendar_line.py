"""A calendar entry as a sentence: what it orders, from when to when, and on which days it comes again."""

from datetime import date, datetime, time, timedelta

from jostle.core.plan.calendar import CalendarEntry, Sleep
from jostle.core.plan.entry import Readied, Setting
from jostle.core.plan.repeat import days_of_rule
from jostle.core.plan.rollout import Rollout
from jostle.core.plan.wall import say_moment
from jostle.core.plan.word import Sentence, Word, choice_word, listed, say, say_count, time_word

_DAYS = {"MO": "Monday", "TU": "Tuesday", "WE": "Wednesday", "TH": "Thursday", "FR": "Friday", "SA": "Saturday", "SU": "Sunday"}
_WEEK, _WEEKEND = ["MO", "TU", "WE", "TH", "FR"], ["SA", "SU"]
_EVERY = {"HOURLY": "hour", "DAILY": "day", "WEEKLY": "week", "MONTHLY": "month", "YEARLY": "year"}


def entry_sentence(entry: CalendarEntry, ahead: float = 0.0) -> Sentence:
    """A sentence whose words stand for the entry's settings; `ahead` is how long (s) before its time it orders if it is to be
    ready by then."""
    path = f"calendar.{entry.name}"
    called = choice_word(f"{path}.name", entry.name)
    when = _by_the_clock_of(entry, path) if isinstance(entry, Rollout) else _when(entry, path, ahead)
    words = [*entry.order(path), *when, say(".")]
    if entry.paused:
        words = [say("Paused: "), *words]
    return Sentence(key=path, tone="paused" if entry.paused else "calendar", words=words, called=called)


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


def _when(entry: CalendarEntry, path: str, ahead: float) -> list[Word]:
    begin = datetime.fromisoformat(entry.begin)
    again = say_repeat(entry.repeat)
    by_the_day = again.startswith(("every", "on", "at"))
    words = [say(" "), _lead(entry, "at" if isinstance(entry, Setting) else "from", path, not isinstance(entry, Sleep)), say(" ")]
    if by_the_day:
        words += [Word(text=f"{begin:%H:%M}", path=f"{path}.from", value=f"{begin:%H:%M}")]
    else:
        words += [Word(text=say_moment(begin), path=f"{path}.from", value=entry.begin)]
    if not isinstance(entry, Sleep):
        words += _launched(entry, begin, ahead)
    if entry.length is not None:
        words += [say(" for "), time_word(f"{path}.for", entry.length)]
    elif entry.until is not None:
        words += [say(" "), _lead(entry, "until", path, isinstance(entry, Sleep)), say(" ")]
        words.append(Word(text=entry.until, path=f"{path}.until", value=entry.until))
        if isinstance(entry, Sleep):
            words += _launched(entry, datetime.combine(begin.date(), time.fromisoformat(entry.until)), ahead)
    words += [say(", "), Word(text=again or "once", path=f"{path}.repeat", value=entry.repeat)]
    if by_the_day:
        words += [say(", first on "), Word(text=say_day(entry.begin[:10]), path=f"{path}.first", value=entry.begin)]
    if entry.excepted:
        words += [say(", but for "), Word(text=_days(entry.excepted), path=f"{path}.except", value=entry.excepted)]
    if entry.also:
        times = listed(say_moment(datetime.fromisoformat(one)) for one in entry.also)
        shown = times if len(entry.also) < 3 else say_count(len(entry.also), "single time")
        written = ", ".join(one.replace("T", " ")[:16] for one in entry.also)
        words += [say(", and at "), Word(text=shown, path=f"{path}.also", value=written), say(" besides")]
    return words + _by_the_clock_of(entry, path)


def _by_the_clock_of(entry: CalendarEntry, path: str) -> list[Word]:
    return [say(", by the clock of "), Word(text=entry.zone, path=f"{path}.zone", value=entry.zone)] if entry.zone else []


def _lead(entry: CalendarEntry, plain: str, path: str, chosen: bool) -> Word:
    """What stands before a time: a word to choose where instances may be launched before it."""
    if not isinstance(entry, Readied) or not chosen:
        return say(plain)
    return Word(text="ready by" if entry.ready_by else plain, path=f"{path}.ready_by", value=entry.ready_by)


def _launched(entry: CalendarEntry, at: datetime, ahead: float) -> list[Word]:
    if not isinstance(entry, Readied) or not entry.ready_by or not ahead:
        return []
    return [say(f" (launched from {at - timedelta(seconds=ahead):%H:%M:%S} on)")]


def _days(days: list[str]) -> str:
    """The exceptions by name while they are few."""
    return listed(say_day(day) for day in days) if len(days) < 3 else say_count(len(days), "day")


def say_day(day: str) -> str:
    """`Thu 10 Jul`."""
    read = date.fromisoformat(day)
    return f"{read:%a} {read.day} {read:%b}"
