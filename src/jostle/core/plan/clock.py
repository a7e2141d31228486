"""The ticks of a rehearsal and what the clock on the wall of the plan's zone shows at each.

Epoch time runs evenly; the wall clock jumps twice a year. Shapes that follow people's days follow the wall clock.
"""

from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from functools import cached_property
from zoneinfo import ZoneInfo

import numpy as np
from numpy.typing import NDArray

DAY = 86400


@dataclass(frozen=True)
class Clock:
    """`ticks` steps of `tick` seconds from `first`, seconds since 1970-01-01T00:00Z, seen from `zone`."""

    first: float
    tick: float
    ticks: int
    zone: ZoneInfo

    @classmethod
    def of(cls, start: datetime, days: float, tick: float, zone: ZoneInfo) -> "Clock":
        return cls(start.timestamp(), tick, max(1, round(days * DAY / tick)), zone)

    @property
    def seconds(self) -> float:
        """Length of the whole span."""
        return self.ticks * self.tick

    @cached_property
    def epochs(self) -> NDArray[np.float64]:
        """Start of each tick, seconds since 1970."""
        return np.asarray(self.first + self.tick * np.arange(self.ticks), dtype=np.float64)

    @cached_property
    def wall(self) -> NDArray[np.float64]:
        """What the wall clock shows at each tick, as seconds since 1970-01-01T00:00 on that clock."""
        return self.epochs + offsets(self.epochs, self.zone)

    @cached_property
    def time_of_day(self) -> NDArray[np.float64]:
        return self.wall % DAY

    @cached_property
    def weekday(self) -> NDArray[np.int64]:
        """0 for Monday to 6 for Sunday; 1970-01-01 was a Thursday."""
        return ((self.wall // DAY).astype(np.int64) + 3) % 7

    def at(self, epoch: float) -> datetime:
        return datetime.fromtimestamp(epoch, self.zone)

    def epoch_of(self, moment: str) -> float:
        """Epoch of an ISO 8601 time, on the wall clock of the zone unless it has an offset."""
        read = datetime.fromisoformat(moment)
        return (read if read.tzinfo else read.replace(tzinfo=self.zone)).timestamp()


def offset_at(epoch: float, zone: ZoneInfo) -> float:
    """Seconds that the zone's wall clock is ahead of UTC."""
    return (datetime.fromtimestamp(epoch, UTC).astimezone(zone).utcoffset() or timedelta()).total_seconds()


def offsets(epochs: NDArray[np.float64], zone: ZoneInfo) -> NDArray[np.float64]:
    """`offset_at` for a rising array; the zone is asked once a day, and within days whose ends differ once more."""
    edges = np.arange(epochs[0], epochs[-1] + DAY, DAY)
    ahead = np.array([offset_at(edge, zone) for edge in edges])
    steps = np.searchsorted(edges, epochs, side="right") - 1
    result = ahead[steps]
    for day in np.flatnonzero(np.diff(ahead)):
        low, high = edges[day], edges[day + 1]
        while high - low > 0.5:
            middle = (low + high) / 2
            low, high = (middle, high) if offset_at(middle, zone) == ahead[day] else (low, middle)
        result[(epochs >= round(high)) & (epochs < edges[day + 1])] = ahead[day + 1]
    return result


def seconds_of_week(epochs: NDArray[np.float64], zone: ZoneInfo) -> NDArray[np.float64]:
    """Seconds since Monday began on the wall clock, for a rising array; 1970-01-01 was a Thursday."""
    return np.asarray((epochs + offsets(epochs, zone) + 3 * DAY) % (7 * DAY))


def wall_text(ms: float, zone: ZoneInfo) -> str:
    """The wall clock at an instant, ms since 1970, to the minute; with its offset where the clock shows that time twice."""
    at = datetime.fromtimestamp(ms / 1000, zone).replace(second=0, microsecond=0)
    twice = at.replace(fold=0).utcoffset() != at.replace(fold=1).utcoffset()
    return (at if twice else at.replace(tzinfo=None)).isoformat()
