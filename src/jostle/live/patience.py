"""Asking again for what cannot be reached, and since when it cannot."""

import time
from collections.abc import Callable
from threading import Event
from typing import NamedTuple, TypeVar

from jostle.core.today import epoch

T = TypeVar("T")
# s between two times that it is asked
FIRST_PAUSE, LONGEST_PAUSE = 0.25, 10.0


class Away(NamedTuple):
    """Something that cannot be reached: since when (s since 1970), and why."""

    since: float
    said: str


class LetGo(Exception):
    """Nobody waits any longer."""


class Patience:
    """Asks again for `longest` seconds, until `over` is set, whatever of `bears` an act ends with. `lost` is told when something
    cannot be had, once; `times` counts how often that was."""

    def __init__(
        self,
        longest: float,
        lost: Callable[[str], None] = lambda said: None,
        over: Event | None = None,
        bears: tuple[type[Exception], ...] = (ConnectionError,),
    ) -> None:
        self.longest, self.lost, self.over, self.bears = longest, lost, over or Event(), bears
        self.away: Away | None = None
        self.times = 0

    def again(self, act: Callable[[], T], undo: Callable[[], None] = lambda: None) -> T:
        """Do something until it can be done; `undo` is called before it is tried again. Raises what it ended with when patience
        is at its end, LetGo when it is over."""
        began, pause = time.monotonic(), FIRST_PAUSE
        while True:
            if self.over.is_set():
                raise LetGo
            try:
                done = act()
            except self.bears as error:
                first, self.away = self.away is None, Away(epoch() if self.away is None else self.away.since, str(error))
                if first:
                    self.lost(str(error))
                    self.times += 1
                    began = time.monotonic()
                if time.monotonic() - began >= self.longest:
                    raise
                undo()
            else:
                self.away = None
                return done
            self.rest(pause)
            pause = min(LONGEST_PAUSE, 2 * pause)

    def rest(self, seconds: float) -> None:
        """Wait. Raises LetGo."""
        if self.over.wait(seconds):
            raise LetGo
