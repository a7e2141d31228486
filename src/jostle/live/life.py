"""One group as it lives: its ground on the stand-in, its keeper, and the record of both, told as a rehearsal is."""

from dataclasses import dataclass
from typing import Any

import numpy as np

from jostle.core.decide.memory import new_memory
from jostle.core.decide.rules import rows, rules_of
from jostle.core.decide.row import VIEW
from jostle.core.engine.compile import Crew, compile_setup
from jostle.core.engine.result import Result
from jostle.core.engine.setup import Setup
from jostle.core.engine.state import State
from jostle.core.plan.plan import Plan
from jostle.core.plan.problem import PlanError, Problem
from jostle.core.rehearsal.rehearsal import Rehearsal, clock_of, crew_of
from jostle.core.rehearsal.rehearser import Rehearser
from jostle.keeper.keeper import Keeper
from jostle.provider.provider import Counts, Instance, Leaves, Provider, Readings
from jostle.standin.ground import Ground


@dataclass(frozen=True)
class Leg:
    """A stretch of a group's life under one arrangement, from evaluation number `first` on."""

    first: int
    began: float
    arrangement: int
    plan: Plan
    crew: Crew
    setup: Setup


class Embedded:
    """A ground in the same process, as a provider."""

    def __init__(self, ground: Ground) -> None:
        self._ground = ground

    def counts(self, group: str) -> Counts:
        return self._ground.counts()

    def instances(self, group: str) -> list[Instance]:
        return self._ground.instances()

    def readings(self, group: str, first: int) -> Readings:
        return self._ground.readings(first)

    def more(self, group: str, key: str, number: int, by: int) -> None:
        self._ground.more(key, number, by)

    def fewer(self, group: str, key: str, leaving: list[Leaves], by: int) -> None:
        self._ground.fewer(key, leaving, by)


class Life:
    """A group that lives from the beginning of `plan` to its end. Times are seconds from its beginning."""

    def __init__(self, plan: Plan, group: str, arrangement: int, seed: int, rehearser: Rehearser) -> None:
        self.group, self.seed, self.rehearser = group, seed, rehearser
        self.clock = clock_of(plan)
        self.ground = Ground(rehearser.setup_of(plan, group, seed))
        self.legs = [Leg(0, 0.0, arrangement, plan, crew_of(plan, group), self.ground.setup)]
        self.provider: Provider = Embedded(self.ground)
        self._entered = 0
        self.keeper = self._keeper()
        self.kept = True

    @property
    def leg(self) -> Leg:
        return self.legs[-1]

    @property
    def time(self) -> float:
        return self.ground.time

    @property
    def every(self) -> float:
        """Seconds between evaluations."""
        return self.leg.crew.group.evaluate_every

    @property
    def state(self) -> State:
        return self.ground.state

    def _keeper(self) -> Keeper:
        leg = self.leg
        return Keeper(self.group, leg.crew, self.clock, leg.setup.rules, self.state.memory, self.provider, self)

    def enter(self, decision: Any, views: Any) -> int:
        """Enter a decision into the record; see `keeper.Journal`."""
        e = int(self.state.now["evaluations"][0])
        self.state.decisions[e] = decision
        self.state.views[e] = views
        return self.ground.enter(e)

    def go_on(self, until: float, decided: bool = False) -> None:
        """Live on to the tick of `until`, with an evaluation at each time that has one, that of `until` included.

        `decided` has the same decisions made within the engine, which takes a hundredth of the time.
        """
        tick = self.ground.setup.tick
        until = min(self.ground.ends, tick * round(until / tick))
        if decided and self.kept and not self.keeper.held:
            self.ground.go_on(until, decided=True)
            self._caught_up()
            return
        while self.time < until - 1e-9:
            after = self.every * (int(self.time / self.every + 1e-9) + 1)
            self.ground.go_on(min(after, until))
            if after <= until + 1e-9:
                self.evaluate()

    def evaluate(self) -> None:
        if self.kept:
            self.keeper.evaluate(self.time)
        else:
            self._leave_alone()

    def _leave_alone(self) -> None:
        """An evaluation at which nobody decided: the row says what stood."""
        e = int(self.state.now["evaluations"][0])
        row = self.state.decisions[e]
        row.time, row.desired, row.decided = self.time, self.keeper.wanted, self.keeper.wanted
        row.winner = row.entry = -1
        self.state.now["evaluations"] += 1

    def _caught_up(self) -> None:
        """The engine remembers in the same place as the keeper, which only has to read the meters again."""
        self.keeper.memory = self.state.memory
        self.keeper.read = 0
        self.keeper.listen(self.time)

    def record(self, leg: Leg | None = None) -> Rehearsal:
        """All that was lived, as a rehearsal; its policies and entries are those of a leg, the present one if left out."""
        told = leg or self.leg
        return Rehearsal(told.plan, self.group, self.seed, told.crew, self.clock, Result(told.setup, self.state), self.rehearser.find_bounds)

    def leg_at(self, time: float) -> Leg:
        """The leg to which the last evaluation at or before a time belongs."""
        return next((leg for leg in reversed(self.legs) if leg.began <= time + 1e-6), self.legs[0])
