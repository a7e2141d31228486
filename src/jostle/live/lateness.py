"""What of a life's work was late, hour by hour, which the record tells of the whole only."""

from collections.abc import Sequence

from jostle.core.costs.bounds import late_between
from jostle.core.costs.ledger import next_edge
from jostle.core.engine.result import Result
from jostle.core.plan.clock import Clock
from jostle.core.plan.promise import Promise, strictest


class Lateness:
    """Goes along with a record: `ends` is when the hour ends that is under way (s from the beginning)."""

    def __init__(self, clock: Clock, now: Result) -> None:
        self._clock, self._ended = clock, list[float]()
        self._began = _as_it_is(now)
        self.ends = next_edge(clock, clock.first) - clock.first

    def end_hour(self, now: Result, promises: Sequence[Promise]) -> None:
        """The hour that is under way has ended, and the next begins."""
        self._ended, self._began = self.by_hour(now, promises), _as_it_is(now)
        self.ends = next_edge(self._clock, self._clock.first + self.ends) - self._clock.first

    def by_hour(self, now: Result, promises: Sequence[Promise]) -> list[float]:
        """What was late in each hour, that which is under way included, against the strictest promise that held at its end."""
        promise = strictest(promises)
        return [*self._ended, 0.0 if promise is None else late_between(self._began, now, promise)]


def _as_it_is(now: Result) -> Result:
    """What stays of the record of answers when time goes on."""
    state = now.state
    return Result(now.setup, state._replace(stay=state.stay.copy(), now=state.now.copy()))
