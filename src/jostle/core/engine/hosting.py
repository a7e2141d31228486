"""Hosting: what the instances of a host carry, tick by tick."""

import math

import numpy as np

from jostle.core.compiled import hot, inner
from jostle.core.decide.code import Dial
from jostle.core.engine.code import Life
from jostle.core.engine.kind import is_coming
from jostle.core.engine.room import largest_room, stranded
from jostle.core.engine.setup import Setup
from jostle.core.engine.state import State, noted
from jostle.core.plan.group import Group
from jostle.core.plan.machine import Machine
from jostle.core.plan.place import room_of


def fill_hosting(kind: np.record, group: Group, machine: Machine) -> float:
    """The numbers of a host's room; a Spare policy counts its memory, GiB."""
    kind.room_vcpus, kind.room_memory = room_of(group, machine)
    kind.capacity = kind.draw = kind.room_memory
    return float(kind.room_memory)


@inner
def room_in_all(setup: Setup, state: State) -> tuple[float, float]:
    """vCPUs and GiB that the serving instances have for copies, taken or not."""
    vcpus = memory = 0.0
    for m in range(len(setup.kinds)):
        vcpus += state.crews[m].serving * setup.kinds[m].room_vcpus
        memory += state.crews[m].serving * setup.kinds[m].room_memory
    return vcpus, memory


@inner
def carry(setup: Setup, state: State, k: int) -> None:
    """Tick k: what is carried, what waits for a place, and what the copies burn."""
    now, fixed, carried = state.now[0], setup.fixed[0], state.deck.carried[k]
    row = state.series[noted(state, k)]
    vcpus, memory = room_in_all(setup, state)
    now.in_use = carried.memory + carried.wanted_memory
    now.backlog = carried.waiting
    state.entered[k + 1] = state.entered[k]
    row.capacity, row.seated, row.waiting = memory, carried.memory, carried.waiting
    row.served = row.failed = row.age = 0.0
    row.taken = stranded(state.deck)
    row.latency = math.nan
    row.short = carried.waiting > 0
    row.cpu = math.nan
    if now.serving > 0:
        now.busy = carried.memory / memory
        row.cpu = min(1.0, fixed.idle_cpu + carried.burnt / (vcpus / (1.0 - fixed.idle_cpu)))


@inner
def be_carried(setup: Setup, state: State, k: int) -> None:
    """What a guest takes of its host in tick k."""
    now, carried, guest = state.now[0], state.deck.carried[k], state.deck.guests[setup.fixed[0].guest]
    carried.vcpus += guest.placed * guest.vcpus
    carried.memory += guest.placed * guest.memory
    if now.serving > 0:
        carried.burnt += state.series[noted(state, k)].cpu * now.serving * guest.vcpus
    if now.waiting > 0:
        number = without_place(state)
        carried.waiting += number
        carried.wanted_vcpus += number * guest.vcpus
        carried.wanted_memory += number * guest.memory


@inner
def without_place(state: State) -> int:
    """Copies that wait for a place, those aside that are there to take the place of one that still serves."""
    number = 0
    for a in range(state.now[0].living):
        i = state.alive[a]
        number += state.instances[i].state == Life.REQUESTED and not is_coming(state, i)
    return number


@hot
def read_room(setup: Setup, state: State, s: int) -> None:
    """Reading s of the room that is free, where any host serves."""
    row, carried = state.sight.samples[0], state.deck.carried[state.now[0].tick]
    vcpus, memory = room_in_all(setup, state)
    if memory <= 0.0:
        return
    row[Dial.FREE_VCPUS, s], row[Dial.FREE_GIB, s] = vcpus - carried.vcpus, memory - carried.memory
    row[Dial.FREE_CPU, s], row[Dial.FREE_MEMORY, s] = 1.0 - carried.vcpus / vcpus, 1.0 - carried.memory / memory
    row[Dial.LARGEST_PLACE, s] = largest_room(state.deck, 0.0)[0]


@hot
def read_wants(state: State, s: int) -> None:
    """Reading s of what guests ask of a host, whether any serves or not."""
    row, carried = state.sight.samples[0], state.deck.carried[state.now[0].tick]
    row[Dial.VCPUS_IN_USE, s] = carried.vcpus + carried.wanted_vcpus
    row[Dial.WITHOUT_PLACE, s] = carried.waiting
