"""A finished run: its rows and series, cut to their true lengths, with units."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from jostle.core.built.figure import mixed_beyond, mixed_quantile, mixed_tail
from jostle.core.built.play import advance
from jostle.core.decide.code import NOBODY
from jostle.core.engine.code import Billed
from jostle.core.engine.outset import new_state, uncleared_series
from jostle.core.engine.record import grown
from jostle.core.engine.setup import Setup
from jostle.core.engine.state import State


def play(setup: Setup, state: State, until: int | None = None) -> State:
    """Advance to tick `until` (the end if left out), or until a fault waits for a keeper, making room as needed. Returns the
    state to go on with."""
    while not advance(setup, state, setup.ticks if until is None else until):
        if state.now["found"][0]:
            break
        state = grown(state)
    return state


def run(setup: Setup, bare: bool = False) -> "Result":
    """A whole rehearsal in one call; a bare one has its figures, and no course of them. A guest by itself always finds a
    place, and a host by itself carries nothing."""
    alone = setup if setup.of("guest") == NOBODY else setup.changed(guest=NOBODY)
    series = None if bare or alone.of("kept") else uncleared_series([alone])[0]
    return Result(alone, play(alone, new_state(alone, bare, series)))


@dataclass(frozen=True)
class Result:
    """What came of a setup. Times in rows are seconds from the start."""

    setup: Setup
    state: State

    @property
    def nbytes(self) -> int:
        """Bytes of memory that it holds, its setup's included."""
        return _nbytes(self.setup) + _nbytes(self.state)

    @cached_property
    def events(self) -> np.ndarray:
        return _plain(self.state.events[: int(self.state.now["events"][0])])

    @cached_property
    def decisions(self) -> np.ndarray:
        return _plain(self.state.decisions[: int(self.state.now["evaluations"][0])])

    @cached_property
    def views(self) -> np.ndarray:
        """What each policy saw and asked for, shape (evaluations, policies)."""
        return _plain(self.state.views[: int(self.state.now["evaluations"][0])])

    @cached_property
    def instances(self) -> np.ndarray:
        return _plain(self.state.instances[: int(self.state.now["launched"][0])])

    @cached_property
    def series(self) -> np.ndarray:
        """A row of TICK for each tick."""
        return _plain(self.state.series)

    @property
    def elapsed(self) -> float:
        """Seconds played."""
        return float(self.state.now["tick"][0]) * self.setup.tick

    @cached_property
    def spells(self) -> np.ndarray:
        return _plain(self.state.spells[: int(self.state.now["spells"][0])])

    @cached_property
    def lives(self) -> np.ndarray:
        """The running spells with the times of each: what an instance lived through from request to end, start by start."""
        found = self.spells[self.spells["kind"] == Billed.RUNNING].copy()
        running = np.isnan(found["end"])
        for field in ("requested", "booted", "serves", "drains"):
            found[field][running] = self.instances[field][found["instance"][running]]
        return found

    @property
    def arrived(self) -> float:
        """Requests, jobs or sessions that came."""
        return float(self.arrivals.sum()) + self.tally("came_back")

    @property
    def arrivals(self) -> NDArray[np.float64]:
        """Those that came in each tick that was played, with what clients who wait for their answers sent."""
        played = int(self.state.now["tick"][0])
        found = self.setup.arrivals[:played]
        return found + self.state.sent["drawn"][:played] if len(self.state.sent) else found

    @property
    def rate(self) -> NDArray[np.float64]:
        """Arrivals expected per second in each tick, with theirs."""
        found = self.setup.rate
        return found + self.state.sent["mean"] / self.setup.tick if len(self.state.sent) else found

    def tally(self, field: str) -> float:
        """One field of the running totals; see `state.NOW`."""
        return float(self.state.now[field][0])

    def spell_seconds(self, kind: int) -> NDArray[np.float64]:
        """Length of each spell of one kind, shape (spells of that kind,)."""
        rows = self.spells[self.spells["kind"] == kind]
        return np.asarray(np.where(np.isnan(rows["end"]), self.elapsed, rows["end"]) - rows["begin"])

    @property
    def instance_seconds(self) -> NDArray[np.float64]:
        """Seconds that instances ran, spell by spell."""
        return self.spell_seconds(Billed.RUNNING)

    def late_jobs(self, within: float) -> float:
        """Share of the jobs that waited longer than so many seconds; one that still waits counts by its age now."""
        late = self.taken_late(within)
        before = max(0, int((self.elapsed - within) / self.setup.tick))
        late += max(0.0, float(self.state.entered[before]) - self.tally("departed"))
        taken = self.series["taken"][: int(self.state.now["tick"][0])]
        there = float(taken.sum(dtype=np.float64)) + self.tally("backlog")
        return min(1.0, late / there) if there > 0 else 0.0

    def taken_late(self, within: float, since: int = 0) -> float:
        """How many jobs were taken up, from tick `since` on, that had waited longer than so many seconds."""
        series = self.series[since : int(self.state.now["tick"][0])]
        # Where none was taken up there is no wait, and none is beyond anything.
        return float(series["taken"][series["latency"] > np.float64(within)].sum(dtype=np.float64))

    def job_wait(self, quantile: float) -> float:
        """Seconds within which this share of the jobs taken up was; 0 where none was."""
        series = self.series[: int(self.state.now["tick"][0])]
        some = series["taken"] > 0
        waited, taken = series["latency"][some], series["taken"][some]
        if not len(taken):
            return 0.0
        order = np.argsort(waited, kind="stable")
        done = np.cumsum(taken[order], dtype=np.float64)
        return float(np.nan_to_num(waited[order][np.searchsorted(done, quantile * done[-1])]))

    @property
    def refused_share(self) -> float:
        """Share of the sessions that found no seat."""
        asked = self.tally("served") + self.tally("failed")
        return self.tally("failed") / asked if asked else 0.0

    @property
    def unborne_share(self) -> float:
        """Share of the time in which the copies of some instance of a host would not all find room on the others."""
        return float((self.series["taken"] > 0).mean())

    def late_share(self, within: float) -> float:
        """Share of the requests that were not answered within so many seconds; a failed one was not answered."""
        came = self.tally("served") + self.tally("failed")
        return min(1.0, self.late_requests(within) / came) if came else 0.0

    def late_requests(self, within: float) -> float:
        """How many requests were not answered within so many seconds."""
        served, failed = self.tally("served"), self.tally("failed")
        if served == 0:
            return failed
        tails, answers = self._stays
        beyond = mixed_beyond(tails, self.setup.line.times, self.setup.extras, answers, within - self.setup.of("base_latency"))
        return float(beyond / answers.sum() * served + failed)

    def latency(self, quantile: float) -> float | None:
        """Seconds within which this share of all requests was answered; None where too many failed for that."""
        served, failed = self.tally("served"), self.tally("failed")
        allowed = (1.0 - quantile) * (served + failed) - failed
        if served == 0 or allowed <= 0:
            return None
        tails, answers = self._stays
        allowed *= float(answers.sum()) / served
        stay = mixed_quantile(tails, self.setup.line.times, self.setup.extras, answers, allowed)
        return float(self.setup.of("base_latency") + stay)

    @cached_property
    def _stays(self) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        """Answers that take longer than each time of the line, by delay of a slow dependency, and how many they are."""
        line, extras = self.setup.line, len(self.setup.extras)
        tails, answers = np.zeros((extras, len(line.times))), np.zeros(extras)
        for n in range(extras):
            for row in range(len(line.tails)):
                answers[n] += mixed_tail(self.state.stay[n * len(line.tails) + row], line.tails[row], tails[n])
        return tails, answers


def _plain(rows: np.ndarray) -> np.ndarray:
    """Rows whose fields are had by their names alone, which is much faster than as attributes too."""
    return rows.view(np.ndarray)


def _nbytes(held: object) -> int:
    return held.nbytes if isinstance(held, np.ndarray) else sum(map(_nbytes, held)) if isinstance(held, tuple) else 0
