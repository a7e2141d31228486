"""What instances of each version of a template are that may serve a group at one time, like two crews at the change of watch."""

from collections.abc import Iterator
from typing import TYPE_CHECKING, NamedTuple

from jostle.core.plan.launch import launch_of, version_number
from jostle.core.plan.machine_type import MachineType, types_of
from jostle.core.plan.problem import PlanError, Problem
from jostle.core.plan.rollout import Rollout
from jostle.core.plan.template import Launch
from jostle.core.plan.word import listed

if TYPE_CHECKING:
    from jostle.core.plan.plan import Plan


class Build(NamedTuple):
    """A version, and how it is launched on each of the machines of its group."""

    version: int
    types: tuple[MachineType, ...]

    @property
    def nature(self) -> tuple[object, ...]:
        """All by which a rehearsal can tell it from another."""
        return tuple(
            (
                *(one.launch.machine, one.launch.boot_time, one.launch.start_time, one.launch.warm_up, one.launch.disk_gib),
                *(one.launch.fields.public_address, one.launch.cpu, one.launch.failing),
            )
            for one in self.types
        )


def rolled_out(plan: "Plan", group_name: str) -> dict[str, int]:
    """The version that each rollout of a group brings in, by its name."""
    group = plan.groups[group_name]
    found = {
        one.name: version_number(plan.templates[group.template], one.to)
        for one in group.calendar
        if isinstance(one, Rollout) and one.comes_in(plan)
    }
    return {name: version for name, version in found.items() if version is not None}


def builds_of(plan: "Plan", group_name: str, launch: Launch, known: tuple[int, ...] = ()) -> tuple[Build, ...]:
    """That of the group first, then those of the version that is there at the start, and of what is rolled out, where they are
    told apart; `known` are versions that are told apart already, in their order. Raises PlanError."""
    group, coming = plan.groups[group_name], rolled_out(plan, group_name)
    versions = dict.fromkeys([*known, launch.version, *([group.start_version] if group.start_version else []), *coming.values()])
    builds = tuple(
        Build(version, types_of(plan, group_name, launch if version == launch.version else launch_of(plan, group_name, version)))
        for version in versions
    )
    if coming or len(known) > 1 or len({build.nature for build in builds}) > 1:
        return builds
    return builds[:1]


def build_problems(plan: "Plan", group_name: str, launch: Launch) -> Iterator[Problem]:
    """What is wrong with the versions that are to serve a group beside its own."""
    brought = rolled_out(plan, group_name)
    for number, one in enumerate(plan.groups[group_name].calendar):
        if not isinstance(one, Rollout) or (version := brought.get(one.name)) is None:
            continue
        place: tuple[str | int, ...] = ("groups", group_name, "calendar", number, "to")
        try:
            other = launch_of(plan, group_name, version)
        except PlanError as error:
            yield Problem(place, one.to, f"cannot be launched: {error.problems[0].message}")
            continue
        if other.zones != launch.zones:
            said = f"is launched in {listed(other.zones)}, and the group is in {listed(launch.zones)}; a rollout moves no zones"
            yield Problem(place, one.to, said)
        elif version == launch.version and not _earlier(plan, group_name, one):
            yield Problem(place, one.to, f"version {version} runs already; bring in another, or set version to an older one")


def _earlier(plan: "Plan", group_name: str, one: Rollout) -> bool:
    """Whether another rollout comes before one."""
    calendar = plan.groups[group_name].calendar
    return any(isinstance(other, Rollout) and other.comes_in(plan) and other.begin < one.begin for other in calendar)
