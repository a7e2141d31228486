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
    """Asks again for `longest` seconds, until `over` is set. `lost` is told when something cannot be reached, once."""

    def __init__(self, longest: float, lost: Callable[[str], None] = lambda said: None, over: Event | None = None) -> None:
        self.longest, self.lost, self.over = longest, lost, over or Event()
        self.away: Away | None = None

    def again(self, act: Callable[[], T], undo: Callable[[], None] = lambda: None) -> T:
        """Do something until it can be done; `undo` is called before it is tried again. Raises ConnectionError when patience is
        at its end, LetGo when it is over."""
        began, pause = time.monotonic(), FIRST_PAUSE
        while True:
            if self.over.is_set():
                raise LetGo
            try:
                done = act()
            except ConnectionError as error:
                if self.away is None:
                    self.away = Away(epoch(), str(error))
                    self.lost(str(error))
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
