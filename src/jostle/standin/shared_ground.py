"""The ground of a host and its guests: what runs on the one makes up the other, so that they go on together."""

from collections.abc import Iterator, Sequence
from copy import copy

from jostle.core.decide.code import NOBODY
from jostle.core.engine.carrying import aboard, copied_aboard, numbered, sail, with_room
from jostle.core.engine.result import Result
from jostle.core.engine.roster import Roster
from jostle.core.engine.setup import Setup
from jostle.core.engine.state import State
from jostle.core.plan.work import WorkKind
from jostle.standin.ground import Ground


class SharedGround:
    """The grounds of a host, which comes first, and of its guests, with one clock for all of them."""

    def __init__(self, setups: list[Setup]) -> None:
        setups = numbered(setups)
        self.parts = [PartOfGround(self, setup, state) for setup, state in zip(setups, aboard(setups), strict=True)]
        self._roster: Roster | None = None

    def twin(self) -> "SharedGround":
        """The same once more, to try something on."""
        other = copy(self)
        other.parts, other._roster = [part.beside(other) for part in self.parts], None
        other.put(copied_aboard(self.states))
        return other

    @property
    def states(self) -> list[State]:
        return [part.state for part in self.parts]

    def put(self, states: Sequence[State]) -> None:
        for part, state in zip(self.parts, states, strict=True):
            part.state = state

    @property
    def waiting(self) -> Ground | None:
        """The one that waits for its keeper, to decide or to see to a fault."""
        asked = int(self.parts[0].state.deck.helm["asked"][0])
        return next((part for part in self.parts if part.found), None if asked == NOBODY else self.parts[asked])

    def go_on(self, until: float, decided: bool = False) -> Ground | None:
        """Let time pass for all, as far as the next one that is to be asked; see `Ground.go_on`."""
        setups = [part.given(decided) for part in self.parts]
        goal = round(until / setups[0].tick)
        roster = self._roster_of(setups)
        who = sail(roster, goal)
        self.put(roster.states)
        return None if who is None else self.parts[who]

    def _roster_of(self, setups: list[Setup]) -> Roster:
        """The roster as it is, where nobody got another setup or state meanwhile."""
        kept = self._roster
        held = [] if kept is None else [*kept.setups, *kept.states]
        if kept is None or any(one is not other for one, other in zip(held, [*setups, *self.states], strict=True)):
            self._roster = kept = Roster(setups, self.states)
        return kept

    def make_room(self, full: "PartOfGround") -> None:
        self.put(with_room(self.states, self.parts.index(full)))

    def on_from_here(self, setups: list[Setup], untils: list[int]) -> Iterator[list[Result]]:
        """What comes of all of them under other setups, up to each of some ticks; they stay as they are."""
        setups = numbered(setups)
        roster = Roster(setups, copied_aboard(self.states))
        for until in untils:
            sail(roster, until)
            yield [Result(setup, state) for setup, state in zip(setups, roster.states, strict=True)]


def grounds_of(setups: list[Setup]) -> list[Ground]:
    """The grounds of a host, which comes first, and of its guests; or that of a group by itself."""
    if setups[0].of("work") == WorkKind.HOSTING:
        return list(SharedGround(setups).parts)
    return [Ground(setups[0])]


class PartOfGround(Ground):
    """That of a host, or of one of its guests."""

    whole: SharedGround

    def __init__(self, whole: SharedGround, setup: Setup, state: State) -> None:
        self.whole = whole
        super().__init__(setup, state)

    def beside(self, whole: SharedGround) -> "PartOfGround":
        """The same as part of another whole, whose states are to be put to it."""
        other = copy(self)
        other.whole, other._done = whole, dict(self._done)
        return other

    def _make_room(self) -> None:
        self.whole.make_room(self)
