"""One rehearsal: the dress rehearsal of a week, played by the engine in milliseconds."""

from collections.abc import Callable
from dataclasses import dataclass, field, replace
from decimal import Decimal
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from jostle.core.costs.bounds import Bounds
from jostle.core.costs.sharing import Shares, shares
from jostle.core.engine.compile import Crew
from jostle.core.engine.result import Result
from jostle.core.plan.build import builds_of, rolled_out
from jostle.core.plan.clock import Clock
from jostle.core.plan.launch import launch_of
from jostle.core.plan.outside import Samples
from jostle.core.plan.place import guests_of
from jostle.core.plan.plan import Plan
from jostle.core.plan.policy import LookaheadPolicy, MetricPolicy
from jostle.core.plan.problem import PlanError, Problem
from jostle.core.plan.shut import kept_out


@dataclass(frozen=True)
class Aboard:
    """A host and its guests as they were rehearsed side by side, the host first."""

    names: tuple[str, ...]
    crews: tuple[Crew, ...]
    results: tuple[Result, ...]

    @cached_property
    def shares(self) -> Shares:
        """What of the cost of the host is each guest's, and what is free."""
        return shares(self.results[0], self.crews[0], list(self.results[1:]))

    @property
    def by_guest(self) -> dict[str, Decimal]:
        """What of the cost of the host is each guest's, by name."""
        return dict(zip(self.names[1:], self.shares.guests, strict=True))


@dataclass(frozen=True)
class Rehearsal:
    """A finished rehearsal with what it was made from."""

    plan: Plan
    group_name: str
    seed: int
    crew: Crew
    clock: Clock
    result: Result
    find_bounds: Callable[["Rehearsal", bool], Bounds | None] = field(repr=False)
    aboard: Aboard | None = None

    @property
    def host_of_guest(self) -> "Rehearsal":
        """The rehearsal of the host of a guest."""
        assert self.aboard is not None
        return replace(self, group_name=self.aboard.names[0], crew=self.aboard.crews[0], result=self.aboard.results[0])

    @property
    def host_share(self) -> Decimal:
        """What of the cost of its host is a guest's."""
        return self.aboard.by_guest.get(self.group_name, Decimal()) if self.aboard is not None else Decimal()

    @property
    def demand_rate(self) -> NDArray[np.float64]:
        """Arrivals per second in each tick."""
        return self.result.rate

    @property
    def bounds(self) -> Bounds | None:
        """Always-peak and foresight; to find them takes several rehearsals more. None of hosts and guests, whose counts hang
        together."""
        return None if self.aboard is not None else self.find_bounds(self, True)

    @property
    def bounds_at_hand(self) -> Bounds | None:
        """The same where they have been found before, for whatever policies."""
        return None if self.aboard is not None else self.find_bounds(self, False)


def clock_of(plan: Plan) -> Clock:
    """The clock of the plan's span."""
    return Clock.of(plan.start, plan.days, plan.tick, plan.zone)


def crew_of(plan: Plan, group_name: str, versions: tuple[int, ...] = ()) -> Crew:
    """The group with its template and machine; versions that are told apart already may be given. Raises PlanError where there
    is no such group."""
    if group_name not in plan.groups:
        names = ", ".join(plan.groups) or "none"
        raise PlanError([Problem(("groups", group_name), group_name, f"no group has this name; there is: {names}")])
    group, launch = plan.groups[group_name], launch_of(plan, group_name)
    watched = dict.fromkeys(policy.series for policy in group.policies if isinstance(policy, MetricPolicy) and policy.series)
    known = dict.fromkeys(policy.history for policy in group.policies if isinstance(policy, LookaheadPolicy) and policy.history)
    return Crew(
        group,
        launch,
        plan.prices,
        builds_of(plan, group_name, launch, versions),
        tuple(incident for incident in plan.demand_of(group).incidents if not incident.muted),
        tuple((name, _read(plan, name)) for name in watched),
        tuple((name, plan.demands[name]) for name in known),
        plan.market if group.buying is not None else None,
        rolled_out(plan, group_name),
        {name: plan.groups[name] for name in guests_of(plan, group_name)},
        kept_out(plan, group, launch.fields),
    )


def _read(plan: Plan, name: str) -> Samples:
    samples = plan.outside[name].samples
    if samples is None:
        raise ValueError(f"the series of {plan.outside[name].file} has not been read")
    return samples
