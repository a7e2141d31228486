"""One rehearsal: the dress rehearsal of a week, played by the engine in milliseconds."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from jostle.core.costs.bounds import Bounds, bounds
from jostle.core.demand.clock import Clock
from jostle.core.demand.series import demand_series
from jostle.core.engine.compile import Crew, compile_setup
from jostle.core.engine.result import Result, run
from jostle.core.engine.state import Setup
from jostle.core.plan.demand import Demand
from jostle.core.plan.plan import Plan
from jostle.core.plan.problem import PlanError, Problem
from jostle.core.plan.promise import AnswersPromise

_BOUNDS: dict[tuple[object, ...], Bounds] = {}
_BOUNDS_KEPT = 256
# A demand's identity is its key, so the demand itself is kept alive beside its rates.
_DEMANDS: dict[tuple[int, Clock, int], tuple[Demand, Clock, NDArray[np.float64]]] = {}
_DEMANDS_KEPT = 8


@dataclass(frozen=True)
class Rehearsal:
    """A finished rehearsal with what it was made from."""

    plan: Plan
    group_name: str
    seed: int
    crew: Crew
    clock: Clock
    result: Result

    @property
    def demand_rate(self) -> NDArray[np.float64]:
        """1/s for each tick."""
        return np.asarray(self.result.setup.rate)

    @cached_property
    def bounds(self) -> Bounds:
        """Always-peak and foresight. They do not depend on the policies, so they are kept from take to take."""
        promises = [p for p in self.crew.group.promises if isinstance(p, AnswersPromise)]
        key = _bounds_key(self.result.setup, promises, self.crew)
        if key not in _BOUNDS:
            if len(_BOUNDS) >= _BOUNDS_KEPT:
                _BOUNDS.clear()
            _BOUNDS[key] = bounds(self.result.setup, promises, self.crew.machine_type.price_per_hour)
        return _BOUNDS[key]


def crew_of(plan: Plan, group_name: str) -> Crew:
    """The group with its template and machine type. Raises PlanError where there is no such group."""
    if group_name not in plan.groups:
        names = ", ".join(plan.groups) or "none"
        raise PlanError([Problem(("groups", group_name), group_name, f"no group has this name; there is: {names}")])
    group = plan.groups[group_name]
    template = plan.templates[group.template]
    return Crew(group, template, plan.machine_types[template.machine_type])


def rehearse(plan: Plan, group_name: str, seed: int = 1) -> Rehearsal:
    """Rehearse a group of a plan against its demand over the plan's span.

    Raises PlanError where the group is unknown or the seed is out of range.
    """
    if not 0 <= seed < 2**31:
        raise PlanError([Problem(("seed",), seed, "a seed is a whole number from 0 to 2147483647")])
    crew = crew_of(plan, group_name)
    clock, rate = _met(plan.demands[crew.group.demand], Clock.of(plan.start, plan.days, plan.tick, plan.zone), seed)
    return Rehearsal(plan, group_name, seed, crew, clock, run(compile_setup(crew, clock, rate)))


def _met(demand: Demand, clock: Clock, seed: int) -> tuple[Clock, NDArray[np.float64]]:
    """The demand's rates on a clock, kept while edits go on against the same demand."""
    key = (id(demand), clock, seed)
    if key not in _DEMANDS:
        while len(_DEMANDS) >= _DEMANDS_KEPT:
            _DEMANDS.pop(next(iter(_DEMANDS)), None)
        _DEMANDS[key] = (demand, clock, demand_series(demand, clock, seed))
    _, known_clock, rate = _DEMANDS[key]
    return known_clock, rate


def _bounds_key(setup: Setup, promises: list[AnswersPromise], crew: Crew) -> tuple[object, ...]:
    return (
        hash(setup.rate.tobytes()),
        setup.tick,
        setup.capacity,
        setup.vcpus,
        setup.service_rate,
        setup.base_latency,
        setup.timeout,
        setup.boot,
        setup.warm_up,
        setup.drain,
        setup.evaluate_ticks,
        tuple(promises),
        crew.machine_type.price_per_hour,
    )
