"""A column of times, written in one way from top to bottom: ISO 8601, seconds or milliseconds since 1970, or day, month and
year with dots or slashes between them."""

import re
from collections.abc import Callable
from datetime import UTC, datetime, timedelta

Reader = Callable[[str], datetime | None]

_SINCE_1970 = re.compile(r"(\d{9,10}(?:\.\d+)?)|(\d{12,13})")
_DATE = re.compile(r"(\d{1,2})([./])(\d{1,2})\2(\d{4}),?\s+(\d{1,2}):(\d\d)(?::(\d\d))?(?:\s*([AP])M)?", re.IGNORECASE)


class TwoWays(ValueError):
    """Dates of which the day might be the month and the month the day."""


def iso(cell: str) -> datetime | None:
    try:
        return datetime.fromisoformat(cell) if len(cell) >= 10 else None
    except ValueError:
        return None


def since_1970(cell: str) -> datetime | None:
    """Seconds, or milliseconds where it has twelve digits or more."""
    found = _SINCE_1970.fullmatch(cell)
    if not found:
        return None
    seconds, milliseconds = found.groups()
    return datetime.fromtimestamp(float(seconds) if seconds else int(milliseconds) / 1000, UTC)


def day_first(cell: str) -> datetime | None:
    return _date(cell, month_at=2)


def month_first(cell: str) -> datetime | None:
    return _date(cell, month_at=1)


def is_time(cell: str) -> bool:
    """Whether a cell can be read as a time in any of the ways."""
    return any(way(cell) for way in (iso, since_1970, day_first, month_first))


def reader_of(cells: list[str]) -> tuple[Reader, str | None]:
    """How the cells of a column are to be read, and a note where that had to be concluded.

    With slashes the day or the month may stand first: the order that fits more cells is taken, and of two that fit as well the
    one in which the times lie closer together. Raises TwoWays where both still fit.
    """
    sample = next((cell for cell in cells if is_time(cell)), "")
    if since_1970(sample) and not iso(sample):
        return since_1970, "times are read as seconds or milliseconds since 1970"
    if iso(sample) or not sample:
        return iso, None
    if "." in sample:
        return day_first, None
    by_day, by_month = _fit(cells, day_first), _fit(cells, month_first)
    if by_day == by_month:
        raise TwoWays
    if by_day > by_month:
        return day_first, "dates are read with the day first"
    return month_first, "dates are read with the month first"


def _fit(cells: list[str], way: Reader) -> tuple[int, timedelta]:
    """How well a way fits, the better the greater: the cells that it reads, then how little time lies between them."""
    times = [at for at in map(way, cells) if at]
    return len(times), (min(times) - max(times) if times else timedelta())


def _date(cell: str, month_at: int) -> datetime | None:
    found = _DATE.fullmatch(cell)
    if not found or (month_at == 1 and found[2] == "."):
        return None
    month, day = (int(found[n]) for n in ((1, 3) if month_at == 1 else (3, 1)))
    hour, half = int(found[5]), found[8]
    if half:
        hour = hour % 12 + (12 if half in "Pp" else 0)
    try:
        return datetime(int(found[4]), month, day, hour, int(found[6]), int(found[7] or 0))
    except ValueError:
        return None
