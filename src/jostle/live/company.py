"""Lives that go on together: a group by itself, or a host with its guests, whose copies make up its load."""

from collections.abc import Callable, Iterator
from copy import copy
from decimal import Decimal
from typing import TYPE_CHECKING, Any

from jostle.core.costs.ledger import Ledger, last_edge
from jostle.core.costs.sharing import shared_ledgers
from jostle.core.engine.result import Result
from jostle.core.engine.setup import Setup
from jostle.core.rehearsal.rehearsal import Aboard
from jostle.standin.ground import Ground
from jostle.standin.shared_ground import grounds_of

if TYPE_CHECKING:
    from jostle.live.life import Life


class Company:
    """One life, or that of a host and then those of its guests. Times are seconds from the beginning."""

    def __init__(self, setups: list[Setup]) -> None:
        self.grounds = grounds_of(setups)
        self.whole = self.grounds[0].whole
        self.lives: list[Life] = []
        self._found: dict[str, tuple[Any, Any]] = {}
        # The end of the hours that are added up, with what each of them spent in those
        self._summed: tuple[float, list[Decimal]] = 0.0, []

    def beside(self) -> "Company":
        """The same once more, to try something on."""
        other = copy(self)
        other._found = {}
        other.grounds = [self.grounds[0].twin()] if self.whole is None else list(self.whole.twin().parts)
        other.whole = other.grounds[0].whole
        pairs = zip(self.lives, other.grounds, strict=True)
        other.lives = [life.beside(other, ground) for life, ground in pairs]
        return other

    @property
    def time(self) -> float:
        return self.grounds[0].time

    def go_on(self, until: float, decided: bool = False) -> None:
        """Live on to the tick of `until`, with an evaluation at each time that has one, that of `until` included.

        `decided` has the same decisions made within the engine, which takes a hundredth of the time.
        """
        tick = self.grounds[0].setup.tick
        until = min(self.grounds[0].ends, tick * round(until / tick))
        quickly, began = decided and not any(life.steered for life in self.lives), self.time
        while self.time < until - 1e-9:
            stop = min(until, min(max(tick * round(life.hour_ends / tick), self.time + tick) for life in self.lives))
            while (waits := self._play(stop, quickly)) is not None:
                self.lives[self.grounds.index(waits)].attend()
            for life in self.lives:
                life.end_hour()
        if quickly and self.time > began:
            for life in self.lives:
                life.catch_up()

    def _play(self, until: float, decided: bool) -> Ground | None:
        """Let time pass; returns the ground that waits for its keeper."""
        return (self.whole or self.grounds[0]).go_on(until, decided)

    def on_from_here(self, setups: list[Setup], untils: list[int]) -> Iterator[list[Result]]:
        """What comes of all of them under other setups, up to each of some ticks; they stay as they are."""
        if self.whole is None:
            return ([result] for result in self.grounds[0].on_from_here(setups[0], untils))
        return self.whole.on_from_here(setups, untils)

    def once(self, what: str, more: object, make: Callable[[], Any]) -> Any:
        """Something made of how all of them stand, once for as long as they stand so."""
        key = (self.time, [life.hands for life in self.lives], more)
        if what not in self._found or self._found[what][0] != key:
            self._found[what] = key, make()
        return self._found[what][1]

    def aboard(self, results: list[Result]) -> Aboard | None:
        """Results of all of them as those of a host and its guests; None for a group by itself."""
        if self.whole is None:
            return None
        return Aboard(tuple(life.group for life in self.lives), tuple(life.leg.crew for life in self.lives), tuple(results))

    def spent(self) -> list[Decimal]:
        """What each of them cost so far: the hours that have ended are added up once."""
        clock = self.lives[0].clock
        ended = last_edge(clock, clock.first + self.time) - clock.first
        if ended > self._summed[0]:
            books = self.ledgers(self._summed[0], closed=True)
            over = [_until(book, clock.first + ended) for book in books]
            before = self._summed[1] or [Decimal()] * len(books)
            self._summed = ended, [was + more for was, more in zip(before, over, strict=True)]
        rest = [book.total() for book in self.ledgers(ended)]
        return [was + more for was, more in zip(self._summed[1] or [Decimal()] * len(rest), rest, strict=True)]

    def ledgers(self, since: float, closed: bool = False) -> list[Ledger]:
        """What each of them cost, from the hour on that begins at `since`: of a host what is free, of a guest its part. What
        begins right now is left out where the hours are `closed`."""
        books = [life.own_ledger(since, closed) for life in self.lives]
        return books if self.whole is None else shared_ledgers(books, [life.result for life in self.lives], self.lives[0].clock)


def _until(book: Ledger, end: float) -> Decimal:
    """The amounts of the hours that end by an instant, s since 1970."""
    return sum((entry.amount for entry in book.entries if book.hours[entry.hour].end <= end + 1e-6), Decimal())
