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


@hot
def in_turn(state: State, k: int) -> int:
    """Where it is noted what is carried in tick k of the turn."""
    return k - state.deck.helm[0].begun


@hot
def carry(setup: Setup, state: State, first: int, goal: int) -> int:
    """Each tick from `first` to before `goal`: what is carried, what waits for a place, and what the copies burn. Returns
    `goal`."""
    now, fixed = state.now[0], setup.fixed[0]
    vcpus, memory = room_in_all(setup, state)
    lost, serving, idle_cpu = stranded(state.deck), now.serving, fixed.idle_cpu
    for k in range(first, goal):
        row, carried = state.series[noted(state, k)], state.deck.carried[in_turn(state, k)]
        now.in_use = carried.memory + carried.wanted_memory
        now.backlog = carried.waiting
        state.entered[k + 1] = state.entered[k]
        row.capacity, row.seated, row.waiting, row.in_use = memory, carried.memory, carried.waiting, now.in_use
        row.served = row.failed = row.age = 0.0
        row.taken = lost
        row.latency = row.cpu = math.nan
        row.short = carried.waiting > 0
        if serving > 0:
            now.busy = carried.memory / memory
            row.cpu = min(1.0, idle_cpu + carried.burnt / (vcpus / (1.0 - idle_cpu)))
    return goal


@hot
def be_carried(setup: Setup, state: State, first: int, goal: int) -> None:
    """What a guest takes of its host in each tick from `first` to before `goal`, beside those that were played before it. The
    first of all writes over what was noted a turn before."""
    now, own = state.now[0], setup.fixed[0].guest
    guest = state.deck.guests[own]
    each_vcpus, each_memory, serving = guest.vcpus, guest.memory, now.serving
    vcpus, memory, number = guest.placed * each_vcpus, guest.placed * each_memory, 0
    if now.waiting > 0:
        number = without_place(state)
    for k in range(first, goal):
        carried = state.deck.carried[in_turn(state, k)]
        if own == 0:
            carried.burnt = carried.vcpus = carried.memory = carried.wanted_vcpus = carried.wanted_memory = 0.0
            carried.waiting = 0
        carried.vcpus += vcpus
        carried.memory += memory
        if serving > 0:
            carried.burnt += state.series[noted(state, k)].cpu * serving * each_vcpus
        carried.waiting += number
        carried.wanted_vcpus += number * each_vcpus
        carried.wanted_memory += number * each_memory


@inner
def without_place(state: State) -> int:
    """Copies that wait for a place, those aside that are there to take the place of one that still serves."""
    number = 0
    for a in range(state.now[0].living):
        i = state.alive[a]
        number += state.instances[i].state == Life.REQUESTED and not is_coming(state, i)
    return number


@hot
def read_room(setup: Setup, state: State, s: int, k: int) -> None:
    """Reading s of the room that is free in tick k, where any host serves."""
    row, carried = state.sight.samples[0], state.deck.carried[in_turn(state, k)]
    vcpus, memory = room_in_all(setup, state)
    if memory <= 0.0:
        return
    row[Dial.FREE_VCPUS, s], row[Dial.FREE_GIB, s] = vcpus - carried.vcpus, memory - carried.memory
    row[Dial.FREE_CPU, s], row[Dial.FREE_MEMORY, s] = 1.0 - carried.vcpus / vcpus, 1.0 - carried.memory / memory
    row[Dial.LARGEST_PLACE, s] = largest_room(state.deck, 0.0)[0]


@hot
def read_wants(state: State, s: int, k: int) -> None:
    """Reading s of what guests ask of a host in tick k, whether any serves or not."""
    row, carried = state.sight.samples[0], state.deck.carried[in_turn(state, k)]
    row[Dial.VCPUS_IN_USE, s] = carried.vcpus + carried.wanted_vcpus
    row[Dial.WITHOUT_PLACE, s] = carried.waiting
