"""Times as they stand on a wall clock, and the zones whose clocks they are."""

import re
from datetime import datetime, time
from functools import lru_cache
from typing import Annotated, Any
from zoneinfo import ZoneInfo

from pydantic import BeforeValidator, WithJsonSchema

from jostle.core.plan.measure import LONGEST, wrong

FIRST_YEAR, LAST_YEAR = 1970, 2199
MONTHS = ("jan", "feb", "mar", "apr", "may", "jun", "jul", "aug", "sep", "oct", "nov", "dec")
# Names under which a system keeps files that are no place's clock
_NO_PLACES = {"localtime", "posixrules", "Factory"}

_CLOCK = re.compile(r"(\d{1,2})(?:[:.h]([0-5]\d)(?::([0-5]\d))?|([0-5]\d)|h)?\s*([ap]m)?", re.ASCII | re.IGNORECASE)
_DAY = re.compile(
    r"(?:(?P<year>\d{4})-(?P<month>\d{1,2})-(?P<day>\d{1,2})"
    r"|(?:[a-z]{2,9},?\s+)?(?P<day_>\d{1,2})(?:\.\s?(?P<month_>\d{1,2})\.|\.?\s+(?P<name>[a-z]{3,9})\.?)\s*,?(?P<year_>\d{4})?)"
    r"(?:[\s,T]+|$)",
    re.ASCII | re.IGNORECASE,
)


@lru_cache(maxsize=1024)
def known_zone(name: str) -> str:
    """The name of an IANA time zone, or a refusal."""
    try:
        if name in _NO_PLACES:
            raise ValueError(name)
        ZoneInfo(name)
    except (KeyError, ValueError, OSError):
        raise wrong("write an IANA time zone name such as Atlantic/Faroe or UTC") from None
    return name


def read_clock(value: Any) -> str:
    """`06:30`, from `6:30`, `06.30`, `6h30`, `0630`, `6`, `6:30 am` or a time with seconds."""
    text = str(value).strip()
    match = _CLOCK.fullmatch(text) if len(text) <= LONGEST else None
    if match is None:
        raise wrong("write a time of day such as 06:30")
    hour, minute, second = int(match[1]), int(match[2] or match[4] or 0), int(match[3] or 0)
    if match[5]:
        hour = hour % 12 + (12 if match[5].lower() == "pm" else 0) if 1 <= hour <= 12 else 24
    if hour > 23:
        raise wrong("write a time of day such as 06:30; the last of a day is 23:59")
    return time(hour, minute, second).strftime("%H:%M:%S").removesuffix(":00")


def within_reach(moment: datetime) -> datetime:
    """A moment of the years that a plan may speak of, or a refusal."""
    if not FIRST_YEAR <= moment.year <= LAST_YEAR:
        raise wrong(f"write a date between the years {FIRST_YEAR} and {LAST_YEAR}")
    return moment


def read_moment(value: Any) -> str:
    """`2025-07-10T12:00`: wall-clock time in the plan's zone, or with an offset of its own."""
    try:
        moment = value if isinstance(value, datetime) else datetime.fromisoformat(str(value))
    except ValueError:
        raise wrong("write a date and time such as 2025-07-10T12:00") from None
    return within_reach(moment).isoformat()


def read_wall(value: Any) -> str:
    """`2025-07-10T12:00`, without an offset."""
    text = read_moment(value)
    if datetime.fromisoformat(text).tzinfo is not None:
        raise wrong("write the time on the wall clock, without an offset; the zone is named beside it")
    return text


def typed_moment(text: str, now: datetime) -> datetime:
    """A date and time as people type it: `10 Jul 12:00`, `2025-07-10 12:00`, `10.7. 9:30`.

    A time alone leaves the date of `now`, a date alone its time, a date without a year its year.
    """
    refusal = wrong("write a date and time such as 10 Jul 12:00 or 2025-07-10 12:00, or one of both")
    text = text.strip()
    day = _DAY.match(text) if len(text) <= LONGEST else None
    date = now.date()
    if day is not None:
        name = (day["name"] or "")[:3].lower()
        if name and name not in MONTHS:
            raise refusal
        month = MONTHS.index(name) + 1 if name else int(day["month"] or day["month_"])
        try:
            year = int(day["year"] or day["year_"] or now.year)
            date = within_reach(datetime(year, month, int(day["day"] or day["day_"]))).date()
        except ValueError:
            raise refusal from None
    rest = text[day.end() :] if day else text
    if not rest:
        return datetime.combine(date, now.time()) if day else now
    try:
        return datetime.combine(date, time.fromisoformat(read_clock(rest)))
    except ValueError:
        raise refusal from None


def say_moment(at: datetime, with_year: bool = False) -> str:
    """`Thu 10 Jul 11:45` or `Thu 10 Jul 2025 11:45`, on the clock that `at` was read from."""
    return f"{at:%a} {at.day} {at:%b}{f' {at.year}' if with_year else ''} {at:%H:%M}"


def say_second(at: datetime) -> str:
    """The same to the second: `Thu 10 Jul 11:45:00`."""
    return f"{say_moment(at)}:{at:%S}"


ClockTime = Annotated[str, BeforeValidator(read_clock), WithJsonSchema({"type": "string", "examples": ["06:30"]})]
Moment = Annotated[str, BeforeValidator(read_moment), WithJsonSchema({"type": "string", "examples": ["2025-07-10T12:00"]})]
Wall = Annotated[str, BeforeValidator(read_wall), WithJsonSchema({"type": "string", "examples": ["2025-07-10T12:00"]})]
