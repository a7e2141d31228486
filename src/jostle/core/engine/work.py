"""The kinds of work, one behind the other: what each does in a tick, and what becomes of it when an instance ends."""

import numpy as np

from jostle.core.compiled import hot, inner, part
from jostle.core.engine.hosting import carry, fill_hosting, read_room, read_wants
from jostle.core.engine.jobs import do_jobs, drain_jobs, fill_jobs, return_jobs
from jostle.core.engine.requests import fill_requests, serve_requests
from jostle.core.engine.seats import write_seats
from jostle.core.engine.sessions import cut_off, fill_sessions, hold_sessions, read_seats
from jostle.core.engine.setup import Setup
from jostle.core.engine.state import State
from jostle.core.plan.group import Group
from jostle.core.plan.machine import Machine
from jostle.core.plan.work import Hosting, Jobs, Requests, Sessions, WorkKind


def fill(row: np.record, kind: np.record, group: Group, machine: Machine, usual: Machine) -> float:
    """The numbers of a group's work on a machine, in rows of FIXED and KIND, `usual` being that of its template. Returns what a
    Spare policy counts of one instance."""
    work = group.work
    row.work = WorkKind[work.kind.upper()]
    match work:
        case Requests():
            return fill_requests(row, kind, group, work, machine)
        case Jobs():
            return fill_jobs(row, kind, work, machine, usual, group.promises)
        case Sessions():
            return fill_sessions(row, kind, work, machine, group.notice)
        case Hosting():
            return fill_hosting(kind, group, machine)


def places_each(kind: np.record, group: Group) -> float:
    """Of what a Spare policy counts, what one arrival a second takes on average."""
    work = group.work
    return work.length if isinstance(work, Sessions) else float(kind.job_time) if isinstance(work, Jobs) else 1.0


@part
def serve(setup: Setup, state: State, first: int, goal: int) -> int:
    """The demand of each tick from `first` to before `goal` meets the instances, of which none comes or goes meanwhile; of those
    ticks as many as may be played in one. Returns the one that is next."""
    kind = setup.fixed[0].work
    if kind == WorkKind.REQUESTS:
        return serve_requests(setup, state, first, goal)
    if kind == WorkKind.JOBS:
        return do_jobs(setup, state, first, goal)
    if kind == WorkKind.SESSIONS:
        return hold_sessions(setup, state, first, goal)
    return carry(setup, state, first, goal)


@hot
def tell_apart(setup: Setup, state: State) -> None:
    """Write down with each instance what it has under way, before any of them is picked out."""
    if setup.fixed[0].work == WorkKind.SESSIONS:
        write_seats(state)


@inner
def start_draining(setup: Setup, state: State, i: int) -> None:
    """Instance i is given no more work. It is still counted among those that serve."""
    if setup.fixed[0].work == WorkKind.JOBS:
        drain_jobs(setup, state, i)


@inner
def give_back(setup: Setup, state: State, i: int, time: float, drained: float) -> None:
    """What instance i had under way when it ended, having drained for so many seconds."""
    kind = setup.fixed[0].work
    if kind == WorkKind.JOBS:
        return_jobs(setup, state, i, time, drained)
    elif kind == WorkKind.SESSIONS:
        cut_off(state, i, time)


@hot
def under_way(setup: Setup, kind: int, per_instance: float, sessions: float) -> float:
    """Requests, jobs or sessions that an instance of a kind has under way, those requests that wait aside.

    `per_instance` is what one finishes (1/s), `sessions` what it holds.
    """
    fixed = setup.fixed[0]
    if fixed.work == WorkKind.SESSIONS:
        return sessions
    if fixed.work == WorkKind.JOBS:
        return per_instance * setup.kinds[kind].job_time
    return per_instance * (fixed.base_latency + 1.0 / setup.kinds[kind].service_rate)


@hot
def is_empty(setup: Setup, state: State, i: int) -> bool:
    """Whether a draining instance has nothing left to wait for."""
    kind = setup.fixed[0].work
    if kind == WorkKind.HOSTING:
        return state.deck.rooms[i].copies == 0
    return kind == WorkKind.SESSIONS and state.instances[i].sessions == 0


@hot
def fails_unseen(setup: Setup) -> bool:
    """Whether a broken instance is still given work until the checks have seen it, rather than taking it itself."""
    kind = setup.fixed[0].work
    return kind == WorkKind.REQUESTS or kind == WorkKind.SESSIONS


@inner
def zone_cpu(setup: Setup, state: State, z: int, group_cpu: float) -> float:
    """Sum of the CPUs of a zone's serving instances."""
    fixed = setup.fixed[0]
    zone = state.zones[z]
    if fixed.work == WorkKind.SESSIONS:
        return zone.serving * fixed.idle_cpu + (fixed.full_cpu - fixed.idle_cpu) * zone.sessions / setup.kinds[0].capacity
    return zone.cpu if state.now[0].uneven and fixed.work == WorkKind.REQUESTS else zone.serving * group_cpu


@hot
def flow(setup: Setup, per_instance: float, sessions: float) -> float:
    """What an instance's traffic goes by: what it finishes (1/s), or the sessions that it holds."""
    return sessions if setup.fixed[0].work == WorkKind.SESSIONS else per_instance


@hot
def in_use(setup: Setup, state: State) -> float:
    """What a Spare policy counts as in use over the meter period that ends."""
    fixed = setup.fixed[0]
    if fixed.work == WorkKind.REQUESTS:
        return state.meters[0].arrived / (fixed.period_ticks * fixed.tick)
    return state.now[0].in_use


@hot
def read_own(setup: Setup, state: State, s: int, k: int, serving: float) -> None:
    """Reading s of the metrics that only one kind of work has, in tick k, with so many serving over the period."""
    if setup.fixed[0].work == WorkKind.SESSIONS:
        read_seats(setup, state, s, serving)
    elif setup.fixed[0].work == WorkKind.HOSTING:
        read_room(setup, state, s, k)


@hot
def read_asked(setup: Setup, state: State, s: int, k: int) -> None:
    """Reading s, in tick k, of what is asked of a group of this work, whether any serves or not."""
    if setup.fixed[0].work == WorkKind.HOSTING:
        read_wants(state, s, k)
