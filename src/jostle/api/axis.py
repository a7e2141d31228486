"""The time axis: the span that is shown, and its marks at round hours of the wall clock."""

from datetime import datetime, timedelta
from functools import lru_cache
from zoneinfo import ZoneInfo

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel

from jostle.core.plan.clock import Clock
from jostle.core.plan.wall import say_moment
from jostle.core.rehearsal.strip import Span

AXES_KEPT = 64


class AxisMark(BaseModel):
    at: float
    label: str
    day: bool


def span_between(clock: Clock, begin: float | None, end: float | None, buckets: int) -> Span:
    """The ticks from `begin` to `end`, ms since 1970 (all if left out), in at most so many buckets."""
    first = 0 if begin is None else int(np.floor((begin / 1000 - clock.first) / clock.tick))
    last = clock.ticks if end is None else int(np.ceil((end / 1000 - clock.first) / clock.tick))
    return Span.of(clock.ticks, first, last, buckets)


def bucket_times(clock: Clock, span: Span) -> NDArray[np.float64]:
    """The beginnings of the buckets of a span, ms since 1970."""
    return np.asarray((clock.first + span.edges * clock.tick) * 1000)


def axis(clock: Clock, span: Span) -> list[AxisMark]:
    """Marks at round hours of the wall clock, some eight to sixteen of them."""
    return _marks(clock.zone, clock.first + span.begin * clock.tick, clock.first + span.end * clock.tick)


@lru_cache(AXES_KEPT)
def _marks(zone: ZoneInfo, begin: float, end: float) -> list[AxisMark]:
    """The marks from one instant to another, s since 1970; the same span is looked at in edit after edit."""
    minutes = next((m for m in (5, 15, 30, 60, 180, 360, 720) if (end - begin) / 60 / m <= 15), 1440)
    if (end - begin) / 86400 > 15:
        minutes = 1440 * int(np.ceil((end - begin) / 86400 / 12))
    midnight = datetime.fromtimestamp(begin, zone).replace(hour=0, minute=0, second=0, microsecond=0, tzinfo=None)
    marks: list[AxisMark] = []
    for step in range(int((end - begin + 2 * 86400) / 60 / minutes) + 1):
        wall: datetime = midnight + timedelta(minutes=step * minutes)
        at = wall.replace(tzinfo=zone).timestamp()
        if begin <= at < end and (not marks or marks[-1].at < at * 1000):
            day = wall.hour == 0 and wall.minute == 0
            marks.append(
                AxisMark(
                    at=at * 1000,
                    label=f"{wall:%a} {wall.day} {wall:%b}" if day else f"{wall:%H:%M}" if minutes < 720 else "",
                    day=day,
                )
            )
    if marks and not any(mark.day for mark in marks):
        first = datetime.fromtimestamp(marks[0].at / 1000, zone)
        marks[0] = AxisMark(at=marks[0].at, label=say_moment(first), day=True)
        marks = [marks[0], *(mark for mark in marks[1:] if mark.at - marks[0].at > (end - begin) * 1000 / 8)]
    return marks
