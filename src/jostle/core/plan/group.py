"""An instance group: a crew whose size follows the work, with the orders that say how."""

from collections import Counter
from typing import Annotated, Literal

from pydantic import BeforeValidator, Field, ValidationInfo, field_validator

from jostle.core.plan.balancer import LoadBalancer, read_balancer
from jostle.core.plan.buying import Buying
from jostle.core.plan.calendar import CalendarEntry
from jostle.core.plan.hand import Hand
from jostle.core.plan.identity import Identity
from jostle.core.plan.measure import wrong
from jostle.core.plan.metric import Metric
from jostle.core.plan.model import Model
from jostle.core.plan.notice import Notice
from jostle.core.plan.order import Order
from jostle.core.plan.place import Place
from jostle.core.plan.policy import LookaheadPolicy, MetricPolicy, Policy, SparePolicy
from jostle.core.plan.promise import Promise
from jostle.core.plan.quantity import Count, Duration, Name, NameOrNone, Share
from jostle.core.plan.template import LaunchFields
from jostle.core.plan.work import Hosting, Work

Mode = Literal["grow_and_shrink", "grow", "stay"]
Criterion = Literal[
    "oldest_version",
    "oldest",
    "newest",
    "least_paid_left",
    "dearest",
    "fewest_sessions",
    "fewest_copies",
    "spot_first",
    "on_demand_first",
]


class Meters(Model):
    """How the dials are read: a sample every period, known to the policies after the delay."""

    period: Duration = Field(default=60.0, gt=0, le=3600)
    delay: Duration = Field(default=30.0, le=3600)


class Brake(Model):
    """The most that may be removed in a rolling period."""

    at_most: int = Field(ge=1, le=1000)
    of: Literal["instances", "percent"] = Field(default="instances", description="Percent of the desired count, at least one")
    within: Duration = Field(gt=0, le=86400)


class Leaving(Model):
    """How the instance to remove is chosen: after overflow, zones and broken ones, by these criteria in turn."""

    criteria: list[Criterion] = Field(default=["oldest"], max_length=8)
    balance_zones: bool = Field(
        default=True, description="The zone with the most instances gives first; new ones go to the least"
    )
    brake: Brake | None = None
    pinned: Count = Field(default=0, description="So many of the first instances are never picked")


class Health(Model):
    """Who finds out that an instance is broken, and how soon."""

    basis: Literal["machine", "heartbeat", "load_balancer"] = Field(
        default="machine",
        description="machine sees a stopped machine; heartbeat also a frozen one; load_balancer also a service that hangs",
    )
    interval: Duration = Field(default=30.0, gt=0, le=3600)
    unhealthy_after: int = Field(default=2, ge=1, le=100, description="Failed checks in a row")
    healthy_after: int = Field(default=0, ge=0, le=100, description="Passed checks in a row before a new instance takes load")
    grace: Duration = Field(default=300.0, le=86400, description="After a launch, failed checks do not count for so long")

    @property
    def notice(self) -> float:
        """Seconds from a fault to its being seen."""
        return self.unhealthy_after * self.interval

    @property
    def passing(self) -> float:
        """Seconds that the checks take which a new instance has to pass."""
        return self.healthy_after * self.interval


class Mending(Model):
    """What happens to an instance that was found broken: restarted so many times, then replaced."""

    restarts: int = Field(default=0, ge=0, le=20)


class Faults(Model):
    """How instances break by themselves."""

    every: Duration | None = Field(
        default=None, gt=0, description="Mean time between two faults of one instance; never if left out"
    )
    frozen: Share = Field(default=0.0, description="Share of the faults in which the machine freezes")
    hung: Share = Field(default=0.0, description="Share of the faults in which only the service hangs; the rest stop the machine")
    never_boots: Share = Field(default=0.0, le=0.9, description="Share of the launches that never finish booting")


class FirstStart(Model):
    """The rehearsal begins with no instance, and so many are launched beyond the count; the last to come are dropped."""

    surplus: Count = 0


class Group(Model):
    template: NameOrNone = Field(default="", description="Name of a launch template of the plan; a guest has none")
    host: Name | None = Field(default=None, description="Name of the group on whose instances its copies run")
    place: Place | None = Field(default=None, description="What a copy of a guest takes of its host")
    version: int | Literal["newest"] = Field(default="newest", description="Which version of the template")
    start_version: int | None = Field(default=None, ge=1, description="Version of the instances that are there at the start")
    launch: LaunchFields = Field(default=LaunchFields(), description="Values for what the template leaves open")
    minimum: Count
    maximum: Count = Field(ge=1)
    start_count: Count | None = Field(default=None, description="Instances serving at the start; the minimum if left out")
    owned: Count | None = Field(
        default=None, description="Instances owned, running or stopped; those beyond it are overflow. All are if left out"
    )
    first_start: FirstStart | None = None
    work: Work
    demand: NameOrNone = Field(
        default="",
        description="Name of the demand that it is rehearsed against unless another is named; of a host, for its incidents",
    )
    promises: list[Promise] = Field(default_factory=list, max_length=10)
    policies: list[Policy] = Field(default_factory=list, max_length=20)
    policies_paused: bool = Field(default=False, description="All policies at once")
    mode: Mode = Field(default="grow_and_shrink", description="What policies may do: add and remove, only add, or nothing")
    cooldown: Duration = Field(default=0.0, description="A wait after any change by a policy, for all policies of the group")
    calendar: list[CalendarEntry] = Field(default_factory=list, max_length=50)
    leaving: Leaving = Leaving()
    drain: Duration = Field(default=60.0, le=86400, description="How long a leaving instance finishes its work")
    notice: Notice | None = Field(default=None, description="What sessions are told whose instance begins to drain")
    health: Health = Health()
    mending: Mending = Mending()
    faults: Faults = Faults()
    load_balancer: Annotated[LoadBalancer | None, BeforeValidator(read_balancer)] = Field(
        default=None, description="What spreads requests over the instances; `true` for one as it comes"
    )
    buying: Buying | None = Field(default=None, description="How instances are bought; all on demand if left out")
    identity: Identity | None = Field(default=None, description="How instances are called, and who bears a name after another")
    order: Order | None = Field(default=None, description="So many at once, in the place of policies and calendar")
    database: Name | None = Field(default=None, description="Name of the database that it asks")
    hands: list[Hand] = Field(default_factory=list, max_length=100, description="What is done by hand during a rehearsal")
    meters: Meters = Meters()
    evaluate_every: Duration = Field(default=60.0, gt=0, le=3600, description="How often the policies are asked")

    @property
    def spread(self) -> str:
        """How requests find an instance: without a load balancer by chance."""
        return self.load_balancer.spread if self.load_balancer else "by_chance"

    @property
    def sticky(self) -> float:
        """Mean time for which a client stays with its instance (s)."""
        return self.load_balancer.sticky if self.load_balancer else 0.0

    @property
    def unit(self) -> str:
        """One of what its counts are of."""
        return self.buying.unit if self.buying else "instance"

    @property
    def can_roll_out(self) -> bool:
        """Whether another version may take the place of its instances."""
        return self.host is None and self.owned is None and self.order is None and self.unit == "instance"

    @property
    def hosts(self) -> bool:
        """Whether it carries copies of other groups."""
        return isinstance(self.work, Hosting)

    @property
    def shares_hosts(self) -> bool:
        """Whether it is played side by side with others, as a guest or as their host."""
        return self.hosts or self.host is not None

    @property
    def first_count(self) -> int:
        return self.minimum if self.start_count is None else self.start_count

    @field_validator("maximum")
    @classmethod
    def _above_minimum(cls, maximum: int, info: ValidationInfo) -> int:
        minimum = info.data.get("minimum")
        if minimum is not None and maximum < minimum:
            raise wrong(f"the maximum cannot be below the minimum of {minimum}; write {minimum} or more")
        return maximum

    @field_validator("start_count")
    @classmethod
    def _within_limits(cls, start: int | None, info: ValidationInfo) -> int | None:
        low, high = info.data.get("minimum"), info.data.get("maximum")
        if start is not None and low is not None and high is not None and not low <= start <= high:
            raise wrong(f"the starting count lies between the minimum and the maximum: {low} to {high}")
        return start

    @field_validator("owned")
    @classmethod
    def _within_maximum(cls, owned: int | None, info: ValidationInfo) -> int | None:
        high = info.data.get("maximum")
        if owned is not None and high is not None and owned > high:
            raise wrong(f"the number owned cannot be above the maximum of {high}; write {high} or less")
        return owned

    @field_validator("promises")
    @classmethod
    def _promises_fit(cls, promises: list[Promise], info: ValidationInfo) -> list[Promise]:
        work = info.data.get("work")
        for promise in promises:
            if work is not None and promise.work not in (None, work.kind):
                fit = work.promise["kind"]
                raise wrong(f"a promise of {promise.kind} is for {promise.work}; for {work.kind} there is {fit}")
        return promises

    @field_validator("policies")
    @classmethod
    def _policies_fit(cls, policies: list[Policy], info: ValidationInfo) -> list[Policy]:
        _once("policies", [policy.name for policy in policies])
        work = info.data.get("work")
        for policy in policies:
            if work is not None and isinstance(policy, MetricPolicy) and policy.metric not in (*work.metrics, Metric.OUTSIDE):
                fit = ", ".join([*work.metrics, Metric.OUTSIDE])
                raise wrong(f"{policy.name}: {work.kind} have no {policy.metric}; they have {fit}")
            if work is not None and isinstance(policy, SparePolicy) and (work.kind == "hosting") != (policy.of is not None):
                said = "say of what: memory or cpu" if policy.of is None else f"{work.kind} have one thing to spare; leave out of"
                raise wrong(f"{policy.name}: {said}")
            if isinstance(policy, LookaheadPolicy) and isinstance(work, Hosting):
                raise wrong(f"{policy.name}: nothing arrives at a host that could be looked ahead to; keep spare room")
        return policies

    @field_validator("calendar")
    @classmethod
    def _entries_once(cls, calendar: list[CalendarEntry]) -> list[CalendarEntry]:
        _once("calendar entries", [entry.name for entry in calendar])
        return calendar


def _once(what: str, names: list[str]) -> None:
    twice = [name for name, times in Counter(names).items() if times > 1]
    if twice:
        raise wrong(f"two {what} are called {twice[0]}; give each its own name")
