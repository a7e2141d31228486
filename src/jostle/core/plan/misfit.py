"""What in a group does not fit: what it names that is not there, or that its template or its work does not have."""

from collections.abc import Iterator
from typing import TYPE_CHECKING

from jostle.core.plan.build import build_problems
from jostle.core.plan.identity import identity_problems
from jostle.core.plan.incident import MarketIncident, NoCapacity, ZoneLost
from jostle.core.plan.launch import NOWHERE, launch_of, launching, unknown_names
from jostle.core.plan.machine_type import type_problems
from jostle.core.plan.order import order_problems
from jostle.core.plan.place import place_problems
from jostle.core.plan.policy import LookaheadPolicy, MetricPolicy
from jostle.core.plan.problem import PlanError, Problem
from jostle.core.plan.quantity import say_duration
from jostle.core.plan.rollout import rollout_problems
from jostle.core.plan.template import Launch
from jostle.core.plan.word import listed
from jostle.core.plan.work import Sessions

if TYPE_CHECKING:
    from jostle.core.plan.plan import Plan


def misfits(plan: "Plan", group_name: str) -> list[Problem]:
    """What a group names that is not there, or that does not fit its template or its work."""
    group, place = plan.groups[group_name], ("groups", group_name)
    if unplaced := list(place_problems(plan, group_name)):
        return unplaced
    try:
        launch = launch_of(plan, group_name)
    except PlanError as error:
        return error.problems
    problems: list[Problem] = []
    problems += _shared_quota(plan, group_name, launch)
    problems += type_problems(plan, group_name, launch)
    problems += order_problems(plan, group_name)
    problems += identity_problems(plan, group_name)
    problems += rollout_problems(plan, group_name)
    problems += build_problems(plan, group_name, launch)
    if group.buying is not None and group.owned is not None:
        message = "owned instances are bought for good; leave out either owned or buying"
        problems.append(Problem((*place, "buying"), None, message))
    if group.notice is not None and not isinstance(group.work, Sessions):
        problems.append(Problem((*place, "notice"), None, f"{group.work.kind} hear no notice; leave it out"))
    if group.database is not None:
        problems += unknown_names((*place, "database"), "database", [group.database], plan.databases)
    if group.load_balancer is not None:
        balancer = (*place, "load_balancer")
        problems += unknown_names((*balancer, "subnets"), "subnet", group.load_balancer.subnets, plan.subnets)
        for version in group.load_balancer.weights:
            if not 1 <= version <= launch.versions:
                message = f"{group.template} has versions 1 to {launch.versions}"
                problems.append(Problem((*balancer, "weights", str(version)), version, message))
    for name, database in plan.databases.items():
        problems += unknown_names(("databases", name, "subnets"), "subnet", database.subnets, plan.subnets)
    if group.start_version is not None and group.start_version > launch.versions:
        message = f"{group.template} has versions 1 to {launch.versions}"
        problems.append(Problem((*place, "start_version"), group.start_version, message))
    for number, policy in enumerate(group.policies):
        its = (*place, "policies", str(number))
        if isinstance(policy, LookaheadPolicy):
            problems += unknown_names((*its, "history"), "demand", _listed(policy.history), plan.demands)
        if not isinstance(policy, MetricPolicy):
            continue
        if policy.zone is not None and policy.zone not in launch.zones:
            message = f"the group has no instance there; it has zones {', '.join(launch.zones)}"
            problems.append(Problem((*place, "policies", number, "zone"), policy.zone, message))
        problems += unknown_names((*its, "series"), "outside metric", _listed(policy.series), plan.outside)
    if isinstance(group.work, Sessions) and group.work.length < 2 * plan.tick:
        message = f"a session lasts at least two ticks of {say_duration(plan.tick)}; lengthen it, or shorten the tick"
        problems.append(Problem((*place, "work", "length"), group.work.length, message))
    zones = {*plan.zones, NOWHERE}
    for number, incident in enumerate(plan.demand_of(group).incidents):
        if (
            isinstance(incident, ZoneLost | NoCapacity | MarketIncident)
            and incident.zone is not None
            and incident.zone not in zones
        ):
            message = f"no subnet lies in this zone; there is: {', '.join(sorted(zones))}"
            problems.append(Problem(("demands", group.demand, "incidents", number, "zone"), incident.zone, message))
        if isinstance(incident, MarketIncident):
            there = ("demands", group.demand, "incidents", str(number), "machine")
            problems += unknown_names(there, "machine", _listed(incident.machine), plan.machines)
    return problems


def _shared_quota(plan: "Plan", group_name: str, launch: Launch) -> Iterator[Problem]:
    """Why a host cannot be on its machine: others draw on the quota of that."""
    if not plan.groups[group_name].hosts or plan.machines[launch.machine].quota is None:
        return
    others = [name for name in launching(plan, launch.machine) if name != group_name]
    if others:
        message = (
            f"{launch.machine} has a quota that {listed(others)} draw on too; give the host a machine of its own, or no quota"
        )
        yield Problem(("groups", group_name, "template"), plan.groups[group_name].template, message)


def _listed(name: str | None) -> list[str]:
    return [] if name is None else [name]
