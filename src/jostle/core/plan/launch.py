"""What a group really launches: its template's version with the blanks filled in, or what is missing for that."""

from collections.abc import Iterator
from typing import TYPE_CHECKING, Any

from jostle.core.plan.identity import identity_problems
from jostle.core.plan.incident import MarketIncident, NoCapacity, ZoneLost
from jostle.core.plan.machine_type import on_type, type_problems
from jostle.core.plan.order import order_problems
from jostle.core.plan.policy import LookaheadPolicy, MetricPolicy
from jostle.core.plan.problem import PlanError, Problem
from jostle.core.plan.quantity import say_duration
from jostle.core.plan.template import Launch, LaunchFields, LaunchTemplate
from jostle.core.plan.work import Sessions

if TYPE_CHECKING:
    from jostle.core.plan.plan import Plan

NOWHERE = "anywhere"


def version_number(template: LaunchTemplate, wanted: int | str) -> int | None:
    """The number of a version, `newest` being the last; None where there is none of that number."""
    number = len(template.versions) if wanted == "newest" else int(wanted)
    return number if 1 <= number <= len(template.versions) else None


def launch_of(plan: "Plan", group_name: str) -> Launch:
    """Raises PlanError, with paths within the plan, where the template is not complete enough to launch from."""
    group = plan.groups[group_name]
    place = ("groups", group_name)
    template = plan.templates[group.template]
    number = version_number(template, group.version)
    if number is None:
        raise PlanError(
            [Problem((*place, "version"), group.version, f"{group.template} has versions 1 to {len(template.versions)}")]
        )
    version = template.versions[number - 1]
    problems: list[Problem] = []
    filled: dict[str, Any] = {}
    for field in LaunchFields.model_fields:
        given, own = getattr(version, field), getattr(group.launch, field)
        if given is not None and own is not None:
            message = f"{group.template} version {number} settles this ({given}); leave it out"
            problems.append(Problem((*place, "launch", field), own, message))
        filled[field] = own if given is None else given
    fields = LaunchFields(**filled)
    machine = plan.machines.get(fields.machine or "")
    if machine is None:
        names = ", ".join(sorted(plan.machines)) or "none is defined yet"
        message = (
            f"{group.template} version {number} leaves the machine open; name one: {names}"
            if fields.machine is None
            else f"no machine has this name; there is: {names}"
        )
        problems.append(Problem((*place, "launch", "machine"), fields.machine, message))
    if machine is not None and fields.boot_time is None and machine.boot_time is None:
        message = f"neither {group.template} version {number} nor {fields.machine} says how long a boot takes"
        problems.append(Problem((*place, "launch", "boot_time"), None, message))
    problems += _unknown((*place, "launch", "subnets"), "subnet", fields.subnets, plan.subnets)
    problems += _unknown((*place, "launch", "firewall"), "firewall rule", fields.firewall, plan.firewall)
    if machine is None or problems:
        raise PlanError(problems)
    zones = list(dict.fromkeys(plan.subnets[name].zone for name in fields.subnets or ())) or [NOWHERE]
    launch = Launch(
        template=group.template,
        version=number,
        fields=fields,
        machine=fields.machine or "",
        boot_time=0.0,
        start_time=0.0,
        warm_up=fields.warm_up or 0.0,
        disk_gib=fields.all_disks_gib,
        zones=zones,
    )
    return on_type(launch, launch.machine, machine)


def _unknown(path: tuple[str, ...], noun: str, names: list[str] | None, known: dict[str, Any]) -> Iterator[Problem]:
    for name in names or ():
        if name not in known:
            yield Problem(path, name, f"no {noun} has this name; there is: {', '.join(known) or 'none is defined yet'}")


def misfits(plan: "Plan", group_name: str) -> list[Problem]:
    """What a group names that is not there, or that does not fit its template or its work."""
    group, place = plan.groups[group_name], ("groups", group_name)
    try:
        launch = launch_of(plan, group_name)
    except PlanError as error:
        return error.problems
    problems: list[Problem] = []
    template = plan.templates[group.template]
    problems += type_problems(plan, group_name, launch)
    problems += order_problems(plan, group_name)
    problems += identity_problems(plan, group_name)
    if group.buying is not None and group.owned is not None:
        message = "owned instances are bought for good; leave out either owned or buying"
        problems.append(Problem((*place, "buying"), None, message))
    if group.notice is not None and not isinstance(group.work, Sessions):
        problems.append(Problem((*place, "notice"), None, f"{group.work.kind} hear no notice; leave it out"))
    if group.database is not None:
        problems += _unknown((*place, "database"), "database", [group.database], plan.databases)
    if group.load_balancer is not None:
        balancer = (*place, "load_balancer")
        problems += _unknown((*balancer, "subnets"), "subnet", group.load_balancer.subnets, plan.subnets)
        for version in group.load_balancer.weights:
            if version_number(template, version) is None:
                message = f"{group.template} has versions 1 to {len(template.versions)}"
                problems.append(Problem((*balancer, "weights", str(version)), version, message))
    for name, database in plan.databases.items():
        problems += _unknown(("databases", name, "subnets"), "subnet", database.subnets, plan.subnets)
    if group.start_version is not None and version_number(template, group.start_version) is None:
        message = f"{group.template} has versions 1 to {len(template.versions)}"
        problems.append(Problem((*place, "start_version"), group.start_version, message))
    for number, policy in enumerate(group.policies):
        if isinstance(policy, LookaheadPolicy):
            problems += _unknown((*place, "policies", str(number), "history"), "demand", _listed(policy.history), plan.demands)
        if not isinstance(policy, MetricPolicy):
            continue
        if policy.zone is not None and policy.zone not in launch.zones:
            message = f"the group has no instance there; it has zones {', '.join(launch.zones)}"
            problems.append(Problem((*place, "policies", number, "zone"), policy.zone, message))
        problems += _unknown((*place, "policies", str(number), "series"), "outside metric", _listed(policy.series), plan.outside)
    if isinstance(group.work, Sessions) and group.work.length < 2 * plan.tick:
        message = f"a session lasts at least two ticks of {say_duration(plan.tick)}; lengthen it, or shorten the tick"
        problems.append(Problem((*place, "work", "length"), group.work.length, message))
    zones = {*plan.zones, NOWHERE}
    for number, incident in enumerate(plan.demands[group.demand].incidents):
        if (
            isinstance(incident, ZoneLost | NoCapacity | MarketIncident)
            and incident.zone is not None
            and incident.zone not in zones
        ):
            message = f"no subnet lies in this zone; there is: {', '.join(sorted(zones))}"
            problems.append(Problem(("demands", group.demand, "incidents", number, "zone"), incident.zone, message))
        if isinstance(incident, MarketIncident):
            there = ("demands", group.demand, "incidents", str(number), "machine")
            problems += _unknown(there, "machine", _listed(incident.machine), plan.machines)
    return problems


def _listed(name: str | None) -> list[str]:
    return [] if name is None else [name]
