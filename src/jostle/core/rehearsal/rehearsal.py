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
from jostle.core.engine.setup import FIXED
from jostle.core.plan.demand import Demand
from jostle.core.plan.launch import launch_of
from jostle.core.plan.outside import Samples
from jostle.core.plan.plan import Plan
from jostle.core.plan.policy import MetricPolicy
from jostle.core.plan.problem import PlanError, Problem
from jostle.core.plan.promise import CostPromise

_BOUNDS: dict[tuple[object, ...], Bounds] = {}
_BOUNDS_KEPT = 256
# The fixed numbers of a setup that a change of policies, limits or calendar leaves alone.
_DECIDE_BOUNDS = tuple(
    name
    for name in FIXED.names or ()
    if name not in ("first_count", "base_size", "cold", "surplus", "pinned", "period_ticks", "meter_latency", "meter_zones")
)
# A demand's identity is its key, so the demand itself is kept alive beside its rates.
_DEMANDS: dict[tuple[int, Clock, int], tuple[Demand, Clock, NDArray[np.float64]]] = {}
_DEMANDS_KEPT = 8
_BILLED: dict[tuple[object, ...], tuple[Plan, NDArray[np.int16]]] = {}


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
        """Arrivals per second in each tick."""
        return self.result.setup.rate

    @cached_property
    def bounds(self) -> Bounds:
        """Always-peak and foresight. They do not depend on the policies, so they are kept from take to take."""
        setup, promises = self.result.setup, [p for p in self.crew.group.promises if not isinstance(p, CostPromise)]
        fixed = setup.fixed[list(_DECIDE_BOUNDS)].tobytes()
        key = (hash(setup.arrivals.tobytes()), fixed, setup.incidents.tobytes(), tuple(promises), self.crew.machine_type)
        if key not in _BOUNDS:
            if len(_BOUNDS) >= _BOUNDS_KEPT:
                _BOUNDS.clear()
            _BOUNDS[key] = bounds(setup, promises, self.crew)
        return _BOUNDS[key]


def clock_of(plan: Plan) -> Clock:
    """The clock of the plan's span."""
    return Clock.of(plan.start, plan.days, plan.tick, plan.zone)


def crew_of(plan: Plan, group_name: str) -> Crew:
    """The group with its template and machine type. Raises PlanError where there is no such group."""
    if group_name not in plan.groups:
        names = ", ".join(plan.groups) or "none"
        raise PlanError([Problem(("groups", group_name), group_name, f"no group has this name; there is: {names}")])
    group, launch = plan.groups[group_name], launch_of(plan, group_name)
    watched = dict.fromkeys(policy.series for policy in group.policies if isinstance(policy, MetricPolicy) and policy.series)
    return Crew(
        group,
        launch,
        plan.machine_types[launch.machine_type],
        plan.prices,
        tuple(incident for incident in plan.demands[group.demand].incidents if not incident.muted),
        tuple((name, _read(plan, name)) for name in watched),
    )


def _read(plan: Plan, name: str) -> Samples:
    samples = plan.outside[name].samples
    if samples is None:
        raise ValueError(f"the series of {plan.outside[name].file} has not been read")
    return samples


def rehearse(plan: Plan, group_name: str, seed: int = 1, by_zone: bool = False) -> Rehearsal:
    """Rehearse a group of a plan against its demand over the plan's span; `by_zone` keeps readings of each zone too.

    Raises PlanError where the group is unknown or the seed is out of range.
    """
    if not 0 <= seed < 2**31:
        raise PlanError([Problem(("seed",), seed, "a seed is a whole number from 0 to 2147483647")])
    crew = crew_of(plan, group_name)
    clock, rate = _met(plan.demands[crew.group.demand], clock_of(plan), seed)
    quota = quota_left(plan, group_name, seed)
    setup = compile_setup(crew, clock, rate, seed, quota)
    return Rehearsal(plan, group_name, seed, crew, clock, run(setup.changed(meter_zones=True) if by_zone else setup))


def quota_left(plan: Plan, group_name: str, seed: int) -> NDArray[np.int32] | None:
    """Instances of the quota of its machine type that the groups before it in the plan leave at each evaluation.

    None where the type has no quota. Groups draw on a quota in the order in which the plan has them.
    """
    launch = launch_of(plan, group_name)
    quota = plan.machine_types[launch.machine_type].quota
    if quota is None:
        return None
    clock = clock_of(plan)
    step = round(plan.groups[group_name].evaluate_every / plan.tick)
    ticks = step * (1 + np.arange(clock.ticks // step)) - 1
    left = np.full(len(ticks), quota, np.int32)
    for name in plan.groups:
        if name == group_name:
            break
        if launch_of(plan, name).machine_type == launch.machine_type:
            left -= _billed(plan, name, seed)[ticks]
    return np.maximum(left, 0)


def _billed(plan: Plan, group_name: str, seed: int) -> NDArray[np.int16]:
    """Instances that a group runs in each tick, kept while other groups are edited."""
    key = (id(plan.groups[group_name]), id(plan.demands[plan.groups[group_name].demand]), plan.start, plan.days, plan.tick, seed)
    if key not in _BILLED:
        while len(_BILLED) >= _DEMANDS_KEPT:
            _BILLED.pop(next(iter(_BILLED)), None)
        _BILLED[key] = (plan, rehearse(plan, group_name, seed).result.state.series["billed"].copy())
    return _BILLED[key][1]


def _met(demand: Demand, clock: Clock, seed: int) -> tuple[Clock, NDArray[np.float64]]:
    """The demand's rates on a clock, kept while edits go on against the same demand."""
    key = (id(demand), clock, seed)
    if key not in _DEMANDS:
        while len(_DEMANDS) >= _DEMANDS_KEPT:
            _DEMANDS.pop(next(iter(_DEMANDS)), None)
        _DEMANDS[key] = (demand, clock, demand_series(demand, clock, seed))
    _, known_clock, rate = _DEMANDS[key]
    return known_clock, rate
