"""The newest lines of a journal as they are told to whoever listens: written once for all of them."""

import math
from bisect import bisect_left
from collections.abc import Callable
from operator import attrgetter
from typing import NamedTuple

import anyio
import anyio.to_thread

from jostle.api.live_journal import Line, Standing, journal

# Lines that are told after a long silence; what is older is read from the journal
MOST_AT_ONCE = 2000
_WHEN = attrgetter("at")


class Entered(NamedTuple):
    """A line: when (ms since 1970), what tells it from others, and the event that says it."""

    at: float
    key: str
    text: str


class JournalTail:
    """Its lines since an instant, as of a turn of the signal that tells of new ones; in the order of time."""

    def __init__(self) -> None:
        self._turn, self._since = -1, math.inf
        self._lines: list[Entered] = []
        self._reading: anyio.Lock | None = None

    async def lines(self, turn: int, since: float, stood: Callable[[], Standing], event: Callable[[Line], str]) -> list[Entered]:
        """Those since an instant (s since 1970) at the most, as of a turn. `stood` says how what lives stands, `event` tells a
        line."""
        self._reading = self._reading or anyio.Lock()
        async with self._reading:
            if since < self._since:
                self._lines, self._since = await anyio.to_thread.run_sync(self._read, since, stood, event), since
                self._turn = max(turn, self._turn)
            elif turn > self._turn:
                newest = self._lines[-1].at / 1000 if self._lines else self._since
                rest = await anyio.to_thread.run_sync(self._read, newest, stood, event)
                self._lines = [*self._lines[: bisect_left(self._lines, newest * 1000, key=_WHEN)], *rest][-MOST_AT_ONCE:]
                self._turn = turn
        return self._lines[bisect_left(self._lines, since * 1000, key=_WHEN) :]

    def _read(self, since: float, stood: Callable[[], Standing], event: Callable[[Line], str]) -> list[Entered]:
        known = {line.key: line for line in self._lines}
        found = reversed(journal(stood(), False, since, MOST_AT_ONCE))
        return [known.get(line.key) or Entered(line.at, line.key, event(line)) for line in found]
