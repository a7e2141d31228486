"""A finished run: its rows and series, cut to their true lengths, with units."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from jostle.core.engine.advance import advance
from jostle.core.engine.queue import DELAYS, mixture_beyond, mixture_quantile
from jostle.core.engine.state import Setup, State, grown, new_state


def play(setup: Setup, state: State, until: int | None = None) -> State:
    """Advance to tick `until` (the end if left out), making room as needed. Returns the state to go on with."""
    while not advance(setup, state, setup.ticks if until is None else until):
        state = grown(state)
    return state


def run(setup: Setup) -> "Result":
    """A whole rehearsal in one call."""
    return Result(setup, play(setup, new_state(setup)))


@dataclass(frozen=True)
class Result:
    """What came of a setup. Times in rows are seconds from the start."""

    setup: Setup
    state: State

    @property
    def events(self) -> np.ndarray:
        return self.state.events[: int(self.state.now["events"][0])]

    @property
    def decisions(self) -> np.ndarray:
        return self.state.decisions[: int(self.state.now["evaluations"][0])]

    @property
    def instances(self) -> np.ndarray:
        return self.state.instances[: int(self.state.now["launched"][0])]

    @property
    def elapsed(self) -> float:
        """Seconds played."""
        return float(self.state.now["tick"][0]) * self.setup.tick

    @property
    def requests_in(self) -> float:
        return float(self.setup.cumulative[int(self.state.now["tick"][0])])

    def tally(self, field: str) -> float:
        """One field of the running totals; see `state.NOW`."""
        return float(self.state.now[field][0])

    @property
    def instance_seconds(self) -> NDArray[np.float64]:
        """Billed seconds of each instance."""
        rows = self.instances
        return np.asarray(np.where(np.isnan(rows["gone"]), self.elapsed, rows["gone"]) - rows["requested"])

    def late_share(self, within: float) -> float:
        """Share of the requests that were not answered within so many seconds; a failed one was not answered."""
        served, failed = self.tally("served"), self.tally("failed")
        if served + failed == 0:
            return 0.0
        late = mixture_beyond(within - self.setup.base_latency, self.state.stay, self.setup.waits, *self._scale)
        return float(min(1.0, (late + failed) / (served + failed)))

    def latency(self, quantile: float) -> float | None:
        """Seconds within which this share of all requests was answered; None where too many failed for that."""
        served, failed = self.tally("served"), self.tally("failed")
        allowed = (1.0 - quantile) * (served + failed) - failed
        if served == 0 or allowed <= 0:
            return None
        setup = self.setup
        longest = setup.timeout + 100.0 / setup.service_rate + 10.0 / float(setup.waits[1, -1])
        stay = mixture_quantile(allowed, self.state.stay, setup.waits, *self._scale, longest)
        return float(setup.base_latency + stay)

    @property
    def _scale(self) -> tuple[float, float]:
        return self.setup.service_rate, self.setup.timeout / DELAYS
