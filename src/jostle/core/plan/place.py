"""A place: what a guest's copy takes on an instance of its host, like a stall of a market hall."""

import math
from collections.abc import Iterator
from typing import TYPE_CHECKING, ClassVar, Literal

from pydantic import Field

from jostle.core.plan.editor import Editor, choices, number
from jostle.core.plan.machine import Machine
from jostle.core.plan.model import Model
from jostle.core.plan.problem import Problem
from jostle.core.plan.quantity import Duration, Number, say_number
from jostle.core.plan.template import Launch, LaunchFields
from jostle.core.plan.word import Word, choice_word, listed, number_word, say, say_count, time_word
from jostle.core.plan.work import Hosting

if TYPE_CHECKING:
    from jostle.core.plan.group import Group
    from jostle.core.plan.plan import Plan

PUT = {"pack": "the fullest host that has room", "spread": "apart over zones and hosts"}
MOST_GUESTS = 20


class Place(Model):
    editors: ClassVar[dict[str, Editor]] = {
        "vcpus": number("vCPUs", "", 1.0, 0.1, 8.0, 0.1),
        "memory_gib": number("Memory", "GiB", 1.0, 0.125, 16.0, 0.125),
        "start_time": number("A copy starts in", "s", 1.0, 0.0, 120.0, 1.0),
        "put": choices("Put", list(PUT.items())),
    }

    vcpus: Number = Field(ge=0.001, le=512, description="vCPUs that a copy takes, such as 0.5")
    memory_gib: Number = Field(ge=0.001, le=65536, description="Memory that a copy takes, GiB")
    start_time: Duration = Field(default=5.0, le=86400, description="Mean time until a copy that was given a place runs")
    put: Literal["pack", "spread"] = Field(
        default="spread", description="pack: on the fullest host that has room; spread: apart over zones and hosts"
    )

    def words(self, path: str) -> list[Word]:
        """`0.5 vCPUs and 0.75 GiB, apart over zones and hosts; it starts in 4 s`."""
        return [
            number_word(f"{path}.vcpus", self.vcpus),
            say(" vCPU and " if self.vcpus == 1 else " vCPUs and "),
            number_word(f"{path}.memory_gib", self.memory_gib),
            say(" GiB, "),
            choice_word(f"{path}.put", self.put, PUT[self.put]),
            say("; it starts in "),
            time_word(f"{path}.start_time", self.start_time),
        ]

    def machine(self, host: Machine) -> Machine:
        """A place as the machine of a copy: as many vCPUs of the host's as it begins, each with its share of their speed."""
        vcpus = math.ceil(self.vcpus - 1e-9)
        return Machine(
            vcpus=vcpus,
            memory_gib=self.memory_gib,
            speed=host.speed * self.vcpus / vcpus,
            price_per_hour=0,
            architecture=host.architecture,
        )

    def launch(self, host_name: str, host: Launch) -> Launch:
        """How a copy comes to be: in the zones of its host, on the machines of that."""
        return Launch(
            template=host_name,
            version=1,
            fields=LaunchFields(),
            machine=host.machine,
            boot_time=self.start_time,
            start_time=self.start_time,
            warm_up=0.0,
            disk_gib=0.0,
            zones=host.zones,
        )


def all_aboard(plan: "Plan", group: str) -> list[str]:
    """A host and its guests, to whom a group belongs; itself alone where it neither carries others nor runs on one."""
    host = plan.groups[group].host or group
    return [host, *guests_of(plan, host)]


def companies(plan: "Plan") -> list[list[str]]:
    """The groups by who goes on together: each host and then its guests, and every other group by itself."""
    return [all_aboard(plan, name) for name, group in plan.groups.items() if not group.host]


def guests_of(plan: "Plan", host: str) -> list[str]:
    """The groups whose copies run on a host, in the order of the plan."""
    return [name for name, group in plan.groups.items() if group.host == host]


def room_of(group: "Group", machine: Machine) -> tuple[float, float]:
    """vCPUs and GiB that an instance of a host has for copies, beside what it takes itself."""
    work = group.work
    return machine.vcpus * (1.0 - work.idle_cpu), machine.memory_gib - work.idle_memory_mib / 1024


# What a guest has of its host, or cannot have at all
_OF_THE_HOST = {
    "launch": "a copy is launched on its host",
    "owned": "places are not owned",
    "buying": "its host buys",
    "order": "its host orders",
    "identity": "copies have no names of their own",
}


def place_problems(plan: "Plan", group_name: str) -> Iterator[Problem]:
    """What is wrong with a group as the guest of another, or as a host."""
    group, place = plan.groups[group_name], ("groups", group_name)
    if group.host is None:
        if isinstance(group.work, Hosting):
            yield from _host_problems(plan, group_name)
        return
    hosts = [name for name, one in plan.groups.items() if isinstance(one.work, Hosting)]
    host = plan.groups.get(group.host)
    there = f"there is: {listed(hosts)}" if hosts else "none is defined yet: a host has work of the kind hosting"
    if group.host == group_name:
        yield Problem((*place, "host"), group.host, f"a group cannot be its own host; {there}")
    elif host is None:
        yield Problem((*place, "host"), group.host, f"no host has this name; {there}")
    elif host.host is not None:
        yield Problem((*place, "host"), group.host, f"is a guest itself, of {host.host}; name that")
    elif not isinstance(host.work, Hosting):
        yield Problem((*place, "host"), group.host, f"does {host.work.kind} and carries nobody; {there}")
    if group.place is None:
        yield Problem((*place, "place"), None, "say what a copy takes, such as {vcpus: 0.5, memory_gib: 0.75}")
    if isinstance(group.work, Hosting):
        yield Problem((*place, "work", "kind"), "hosting", "a guest cannot be a host; give it work of its own")
    for field, why in _OF_THE_HOST.items():
        if getattr(group, field) != type(group).model_fields[field].get_default(call_default_factory=True):
            yield Problem((*place, field), None, f"{why}; leave it out")
    if any(entry.kind == "rollout" for entry in group.calendar):
        yield Problem((*place, "calendar"), "rollout", "a guest has no template, and so no versions; leave the rollout out")


def _host_problems(plan: "Plan", name: str) -> Iterator[Problem]:
    group, place = plan.groups[name], ("groups", name)
    guests = guests_of(plan, name)
    if len(guests) > MOST_GUESTS:
        yield Problem((*place, "work"), len(guests), f"carries at most {MOST_GUESTS} guests; give some another host")
    if group.buying is not None and group.unit != "instance":
        yield Problem((*place, "buying", "count_in"), group.buying.count_in, "hosts are counted in instances; leave it out")


def too_large(plan: "Plan", group_name: str, machines: list[tuple[str, Machine]]) -> Iterator[Problem]:
    """Why a copy of a guest fits on none of these machines of its host."""
    group = plan.groups[group_name]
    host = plan.groups[group.host or ""]
    assert group.place is not None
    rooms = [(name, *room_of(host, machine)) for name, machine in machines]
    if any(group.place.vcpus <= vcpus + 1e-9 and group.place.memory_gib <= memory + 1e-9 for _, vcpus, memory in rooms):
        return
    name, vcpus, memory = max(rooms, key=lambda one: (one[2], one[1]))
    field, value = ("memory_gib", group.place.memory_gib) if group.place.memory_gib > memory else ("vcpus", group.place.vcpus)
    most = f"{say_number(memory)} GiB and {say_count(round(vcpus, 2), 'vCPU')}"
    yield Problem(("groups", group_name, "place", field), value, f"no host has room for it: {name} has {most} for copies")
