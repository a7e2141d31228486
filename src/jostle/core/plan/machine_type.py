"""Which machines may serve a group: the one that its template launches, and others that are as good.

Like a ferry that takes over a route: any that holds as many cars and fits the berth will do.
"""

from collections.abc import Iterator
from typing import TYPE_CHECKING, Annotated, ClassVar, Literal, NamedTuple

from pydantic import BeforeValidator, Field

from jostle.core.plan.editor import Editor, choices, number
from jostle.core.plan.machine import Machine
from jostle.core.plan.model import Model
from jostle.core.plan.place import too_large
from jostle.core.plan.problem import Problem
from jostle.core.plan.quantity import Name, Number, Times, each_typed, say_number
from jostle.core.plan.template import Launch
from jostle.core.plan.word import Word, count_word, listed, number_word, say, say_count

if TYPE_CHECKING:
    from jostle.core.plan.buying import Buying
    from jostle.core.plan.plan import Plan

START_PART = 1 / 3
MOST_TYPES = 12
Names = Annotated[list[Name], BeforeValidator(each_typed)]


class MachineType(NamedTuple):
    """How an instance is launched on a machine."""

    launch: Launch
    machine: Machine


class Needs(Model):
    """What a machine has to have; which ones do is looked up in the catalogue."""

    editors: ClassVar[dict[str, Editor]] = {
        "vcpus": number("vCPUs at least", "", 1.0, 1.0, 64.0, 1.0),
        "most_vcpus": number("vCPUs at most", "", 1.0, 1.0, 64.0, 1.0),
        "memory_gib": number("GiB of memory at least", "", 1.0, 0.5, 256.0, 0.5),
        "architecture": choices("Architecture", [(None, "that of the template's"), ("x86-64", "x86-64"), ("arm64", "arm64")]),
        "price": number("At most, of the template's price", "%", 100.0, 50.0, 400.0, 10.0),
        "families": Editor(kind="text", label="Families", blank=True),
        "without": Editor(kind="text", label="Not these", blank=True),
    }

    vcpus: int = Field(default=1, ge=1, le=512, description="So many vCPUs at the least")
    most_vcpus: int | None = Field(default=None, ge=1, le=512, description="So many at the most")
    memory_gib: Number = Field(default=0.5, gt=0, le=65536, description="So much memory at the least, GiB")
    architecture: Literal["x86-64", "arm64"] | None = Field(
        default=None, description="That of the template's machine if left out"
    )
    price: Times | None = Field(
        default=None, gt=0, le=100, description="No machine above so much of the template's on-demand price: 2 for 200 %"
    )
    families: Names = Field(default_factory=list, max_length=100, description="Only of these: what names begin with, as otter")
    without: Names = Field(default_factory=list, max_length=100, description="Machines that are not wanted all the same")

    def met_by(self, name: str, machine: Machine, usual: Machine) -> bool:
        """Whether a machine will do in the place of the usual one."""
        return (
            name not in self.without
            and self.vcpus <= machine.vcpus <= (self.most_vcpus or machine.vcpus)
            and machine.memory_gib >= self.memory_gib
            and machine.architecture == (self.architecture or usual.architecture)
            and (self.price is None or float(machine.price_per_hour) <= self.price * float(usual.price_per_hour) + 1e-9)
            and (not self.families or any(name.startswith(f"{family}-") or name == family for family in self.families))
        )

    def words(self, path: str) -> list[Word]:
        most = [] if self.most_vcpus is None else [say(" to "), count_word(f"{path}.most_vcpus", self.most_vcpus)]
        found = [
            count_word(f"{path}.vcpus", self.vcpus),
            *most,
            say(" vCPUs " if most else " vCPUs or more "),
            say("with "),
            number_word(f"{path}.memory_gib", self.memory_gib),
            say(" GiB or more"),
        ]
        if self.architecture is not None:
            found += [say(", "), Word(text=self.architecture, path=f"{path}.architecture", value=self.architecture)]
        if self.families:
            named = ", ".join(self.families)
            found += [say(", of "), Word(text=named, path=f"{path}.families", value=named)]
        if self.price is not None:
            dear = Word(text=f"{say_number(100 * self.price)} %", path=f"{path}.price", value=self.price)
            found += [say(", up to "), dear, say(" of the price of the template's")]
        if self.without:
            named = ", ".join(self.without)
            found += [say(", not "), Word(text=named, path=f"{path}.without", value=named)]
        return found


def on_type(launch: Launch, name: str, machine: Machine) -> Launch:
    """A launch on another machine, which boots as soon as the template says, or else the machine."""
    boot = machine.boot_time if launch.fields.boot_time is None else launch.fields.boot_time
    start = (boot or 0.0) * START_PART if launch.fields.start_time is None else launch.fields.start_time
    return launch.model_copy(update={"machine": name, "boot_time": boot or 0.0, "start_time": start})


def types_of(plan: "Plan", group_name: str, launch: Launch) -> tuple[MachineType, ...]:
    """The machines that may serve a group, that of its template first, the others as they are named, or by what they cost."""
    group = plan.groups[group_name]
    if group.host is not None and group.place is not None:
        return (MachineType(launch, group.place.machine(plan.machines[launch.machine])),)
    usual, buying = plan.machines[launch.machine], group.buying
    names: list[str] = []
    if buying is not None and buying.needs is not None:
        known = {name: one for name, one in plan.machines.items() if buying.needs.met_by(name, one, usual)}
        names = sorted(known, key=lambda name: (known[name].price_per_hour, name))
    elif buying is not None:
        names = buying.types
    others = [name for name in dict.fromkeys(names) if name != launch.machine and name in plan.machines]
    return (
        MachineType(launch, usual),
        *(MachineType(on_type(launch, name, plan.machines[name]), plan.machines[name]) for name in others[: MOST_TYPES - 1]),
    )


def type_problems(plan: "Plan", group_name: str, launch: Launch) -> Iterator[Problem]:
    """What is wrong with the machines that a group asks for."""
    place: tuple[str, ...] = ("groups", group_name, "buying")
    group = plan.groups[group_name]
    buying = group.buying
    if group.host is not None:
        yield from too_large(plan, group_name, [(one.launch.machine, one.machine) for one in types_of(plan, group.host, launch)])
    if buying is None or group.host is not None:
        return
    usual = plan.machines[launch.machine]
    if buying.needs is not None and buying.types:
        yield Problem((*place, "types"), ", ".join(buying.types), "needs find the types; leave out one of the two")
    if buying.types:
        for name in buying.types:
            if name not in plan.machines:
                yield Problem((*place, "types"), name, f"no machine has this name; there is: {', '.join(plan.machines)}")
        if launch.machine not in buying.types:
            message = f"{group.template} launches {launch.machine}; name it among the types, or launch one of them"
            yield Problem((*place, "types"), ", ".join(buying.types), message)
    if buying.needs is not None and not buying.needs.met_by(launch.machine, usual, usual):
        met = [name for name, one in plan.machines.items() if buying.needs.met_by(name, one, usual)]
        had = f"{say_count(usual.vcpus, 'vCPU')} and {say_number(usual.memory_gib)} GiB, {usual.architecture}"
        if met:
            message = f"{group.template} launches {launch.machine}, which has {had}; launch one that does: {', '.join(met)}"
        else:
            message = f"no machine meets this; the nearest is {_nearest(plan, buying.needs)}"
        yield Problem((*place, "needs"), launch.machine, message)
    types = types_of(plan, group_name, launch)
    yield from _weighed(place, buying, [one.launch.machine for one in types])
    if all(one.machine.spot is None for one in types):
        sold = [name for name, machine in plan.machines.items() if machine.spot is not None]
        which = f"{launch.machine} is" if len(types) == 1 else f"{listed(one.launch.machine for one in types)} are"
        message = f"{which} not sold as spot; sold are: {', '.join(sold) or 'none yet, say so in the catalogue'}"
        yield Problem(place, None, message)
    for one in types[1:]:
        yield from _misplaced(place, one, types[0], group.work.kib_out)


def _weighed(place: tuple[str, ...], buying: "Buying", names: list[str]) -> Iterator[Problem]:
    """What is wrong with the weights of machines."""
    if buying.weights and buying.count_in != "weights":
        message = "weights count only with count_in: weights; write that, or leave them out"
        yield Problem((*place, "weights"), ", ".join(buying.weights), message)
    for name in buying.weights:
        if name not in names:
            yield Problem((*place, "weights", name), name, f"is no machine of this group; it has {listed(names)}")


def _misplaced(place: tuple[str, ...], one: MachineType, usual: MachineType, kib_out: float) -> Iterator[Problem]:
    """Why a machine cannot stand beside the usual one."""
    name = one.launch.machine
    for each in (one, usual):
        if each.machine.baseline is not None:
            message = f"{each.launch.machine} bursts, and serves a group by itself alone; leave it out"
            yield Problem((*place, "types"), name, message)
            return
        if kib_out > 0.0 and each.machine.network_mbit is not None:
            message = f"the network of {each.launch.machine} has a limit: it serves a group by itself alone; leave it out"
            yield Problem((*place, "types"), name, message)
            return
    if one.machine.boot_time is None and one.launch.fields.boot_time is None:
        message = f"neither {one.launch.template} version {one.launch.version} nor {name} says how long a boot takes"
        yield Problem((*place, "types"), name, message)


def _nearest(plan: "Plan", needs: Needs) -> str:
    """The machine that falls short of needs by the least, and what it has."""

    def short(item: tuple[str, Machine]) -> float:
        machine = item[1]
        far = max(0.0, needs.vcpus / machine.vcpus - 1) + max(0.0, needs.memory_gib / machine.memory_gib - 1)
        over = max(0.0, machine.vcpus / needs.most_vcpus - 1) if needs.most_vcpus else 0.0
        return far + over + (needs.architecture not in (None, machine.architecture))

    name, machine = min(plan.machines.items(), key=short)
    return f"{name} with {say_count(machine.vcpus, 'vCPU')} and {say_number(machine.memory_gib)} GiB, {machine.architecture}"
