"""What a group really launches: its template's version with the blanks filled in, or what is missing for that."""

from collections.abc import Iterator
from contextlib import suppress
from typing import TYPE_CHECKING, Any

from jostle.core.plan.machine_type import on_type
from jostle.core.plan.problem import PlanError, Problem
from jostle.core.plan.template import Launch, LaunchFields, LaunchTemplate

if TYPE_CHECKING:
    from jostle.core.plan.plan import Plan

NOWHERE = "anywhere"


def version_number(template: LaunchTemplate, wanted: int | str) -> int | None:
    """The number of a version, `newest` being the last; None where there is none of that number."""
    number = len(template.versions) if wanted == "newest" else int(wanted)
    return number if 1 <= number <= len(template.versions) else None


def launch_of(plan: "Plan", group_name: str, wanted: int | str | None = None) -> Launch:
    """What instances of a version are launched as, that of the group if none is wanted. Raises PlanError, with paths within the
    plan, where the template is not complete enough to launch from."""
    group = plan.groups[group_name]
    if group.host is not None and group.place is not None:
        return group.place.launch(group.host, launch_of(plan, group.host))
    place = ("groups", group_name)
    template = plan.templates[group.template]
    number = version_number(template, group.version if wanted is None else wanted)
    if number is None:
        raise PlanError(
            [Problem((*place, "version"), group.version, f"{group.template} has versions 1 to {len(template.versions)}")]
        )
    version = template.versions[number - 1]
    problems: list[Problem] = []
    filled: dict[str, Any] = {}
    for field in LaunchFields.model_fields:
        given, own = getattr(version, field), getattr(group.launch, field)
        if given is not None and own is not None and wanted is None:
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
    problems += unknown_names((*place, "launch", "subnets"), "subnet", fields.subnets, plan.subnets)
    problems += unknown_names((*place, "launch", "firewall"), "firewall rule", fields.firewall, plan.firewall)
    if machine is None or problems:
        raise PlanError(problems)
    zones = list(dict.fromkeys(plan.subnets[name].zone for name in fields.subnets or ())) or [NOWHERE]
    launch = Launch(
        template=group.template,
        version=number,
        versions=len(template.versions),
        fields=fields,
        machine=fields.machine or "",
        boot_time=0.0,
        start_time=0.0,
        warm_up=fields.warm_up or 0.0,
        disk_gib=fields.all_disks_gib,
        zones=zones,
    )
    return on_type(launch, launch.machine, machine)


def launching(plan: "Plan", machine: str) -> list[str]:
    """The groups whose template launches a machine; guests launch none, and one that cannot be launched is told by itself."""
    found = []
    for name, group in plan.groups.items():
        with suppress(PlanError):
            if group.host is None and launch_of(plan, name).machine == machine:
                found.append(name)
    return found


def unknown_names(path: tuple[str, ...], noun: str, names: list[str] | None, known: dict[str, Any]) -> Iterator[Problem]:
    for name in names or ():
        if name not in known:
            yield Problem(path, name, f"no {noun} has this name; there is: {', '.join(known) or 'none is defined yet'}")
