"""What time it is: the one place where the system's clock is asked, so that the day can be set."""

import time
from collections.abc import Callable
from datetime import UTC, date, datetime, timedelta, tzinfo

# A test puts a clock of its own in its place
clock: Callable[[], float] = time.time


def epoch() -> float:
    """Seconds since 1970."""
    return clock()


def now(zone: tzinfo = UTC) -> datetime:
    return datetime.fromtimestamp(epoch(), zone)


def today(zone: tzinfo) -> date:
    """The day that it is in a time zone."""
    return now(zone).date()


def this_monday(zone: tzinfo) -> date:
    """The day on which the week began that it is in a time zone."""
    day = today(zone)
    return day - timedelta(days=day.weekday())


def stamp() -> str:
    """ISO 8601 in UTC, to the second, as records keep it."""
    return now().isoformat(timespec="seconds")
