"""Jobs: one pile, from which every worker takes the oldest.

Jobs that all take equally long and come evenly are a steady flow. By chance, each is held by its worker for a time that is
drawn stage by stage; jobs too short for that flow, and what flows in a tick is drawn.
"""

import math

import numpy as np

from jostle.core.compiled import hot, inner, part
from jostle.core.decide.code import NOBODY, Cause
from jostle.core.draw import STREAM_FINISH, STREAM_RETURN, binomial, poisson, stream_of, uniform
from jostle.core.engine.burst import read_cpu
from jostle.core.engine.code import EventKind, Life
from jostle.core.engine.fifo import entry_tick, entry_time
from jostle.core.engine.kind import can_do, worth
from jostle.core.engine.lengths import two_kinds
from jostle.core.engine.note import note
from jostle.core.engine.setup import Setup
from jostle.core.engine.share import free_part
from jostle.core.engine.side import errors_of, tell_sides
from jostle.core.engine.state import State, noted
from jostle.core.plan.machine import Machine
from jostle.core.plan.promise import AgePromise, Promise
from jostle.core.plan.work import Jobs

SERVING, DRAINING = 0, 1
MOST_STAGES = 64
# Jobs of fewer ticks than this flow
HELD_FROM = 3.0


def fill_jobs(row: np.record, kind: np.record, work: Jobs, machine: Machine, usual: Machine, promises: list[Promise]) -> float:
    """The numbers of jobs; a Spare policy counts those that a worker does side by side. How many is told of the usual machine;
    a worker on another does as many as it has vCPUs for."""
    row.by_chance, row.unevenness = work.arrivals == "by_chance", work.unevenness
    kind.concurrency = max(1, work.concurrency * machine.vcpus // usual.vcpus)
    by_network = kind.concurrency / machine.most_each(work.kib_out)
    usual_time = max(work.job_seconds / machine.speed, by_network)
    kind.job_time = max(work.job_seconds * float(kind.cpu) / machine.speed, by_network)
    kind.draw = float(kind.concurrency) / usual_time
    row.held_jobs = (row.by_chance or row.unevenness > 0.0) and kind.job_time >= HELD_FROM * row.tick
    row.either = row.unevenness > 1.0
    row.long_kind = two_kinds(work.unevenness)[0] if row.either else 0.0
    kind.capacity = kind.concurrency / kind.job_time
    row.patience = min((p.within for p in promises if isinstance(p, AgePromise)), default=0.0)
    return float(work.concurrency)


def stages_of(row: np.record, kind: np.record) -> np.ndarray:
    """The chance that a held job passes each of its stages within a tick.

    A stage lasts a geometric number of ticks, and as many of them follow each other as make the lengths as uneven as they are
    said to be, the mean being exact. More uneven than exponential ones are of two kinds, a stage for each.
    """
    if not row.held_jobs:
        return np.zeros(1)
    pace = row.tick / kind.job_time
    if row.either:
        _, long, short = two_kinds(float(row.unevenness))
        return np.array([min(1.0, pace / short), min(1.0, pace / long)])
    number = min(MOST_STAGES, max(1, round(1 / (row.unevenness + pace))))
    return np.full(number, min(1.0, number * pace))


@inner
def draining_rate(setup: Setup, state: State, time: float) -> float:
    """Jobs per second that leaving workers still finish: those under way, evenly spread over their length."""
    rate = 0.0
    for a in range(state.now[0].living):
        one = state.instances[state.alive[a]]
        if one.state == Life.DRAINING:
            kind = setup.kinds[one.kind]
            rate += kind.capacity * max(0.0, 1.0 - (time - one.drains) / kind.job_time)
    return rate * state.now[0].busy


@inner
def stressed_part(setup: Setup, state: State) -> float:
    """Part of the serving workers' capacity that stress leaves; clears `uneven` once none is stressed."""
    now = state.now[0]
    left = whole = 0.0
    now.uneven = False
    for a in range(now.living):
        one = state.instances[state.alive[a]]
        if one.state == Life.SERVING:
            size = worth(setup, one.kind)
            left += size * free_part(setup, one.stress, one.tired)
            whole += size
            now.uneven = now.uneven or one.stress > 0.0 or one.tired
    return left / whole


@inner
def under_way_by(state: State, who: int) -> int:
    """Jobs held by the workers that serve, or by those that drain."""
    held = 0
    for stage in range(state.held_jobs.shape[1]):
        held += state.held_jobs[who, stage]
    return held


@inner
def finish(setup: Setup, state: State, k: int, who: int, part: float) -> int:
    """Held jobs go through their stages in tick k; returns how many are finished. Stress leaves `part` of the pace."""
    fixed = setup.fixed[0]
    held, stages, finishes = state.held_jobs, setup.stages, stream_of(fixed.seed, STREAM_FINISH)
    done = 0
    for stage in range(len(stages) - 1, -1, -1):
        there = held[who, stage]
        if there == 0:
            continue
        share = min(1.0, stages[stage] * part)
        passed = there
        if share < 1.0:
            index = (2 * k + who) * 64 + stage
            small = min(share, 1.0 - share)
            passed = binomial(finishes, index, there, small, (1.0 - small) ** there)
            if share > small:
                passed = there - passed
        held[who, stage] -= passed
        if fixed.either or stage == len(stages) - 1:
            done += passed
        else:
            held[who, stage + 1] += passed
    return done


@inner
def take_up(setup: Setup, state: State, k: int, number: int) -> None:
    """Serving workers take so many jobs: into the first stage, or, for very uneven ones, the long or the short kind."""
    fixed = setup.fixed[0]
    if not fixed.either:
        state.held_jobs[SERVING, 0] += number
        return
    rare = fixed.long_kind
    long = binomial(stream_of(fixed.seed, STREAM_FINISH + 1), k, number, rare, (1.0 - rare) ** number)
    state.held_jobs[SERVING, 1] += long
    state.held_jobs[SERVING, 0] += number - long


@hot
def slots_of(setup: Setup, state: State) -> int:
    """How many jobs the serving workers can do side by side."""
    number = 0
    for m in range(len(setup.kinds)):
        number += state.crews[m].serving * setup.kinds[m].concurrency
    return number


@hot
def pace_of(setup: Setup, state: State, slots: int) -> float:
    """How fast jobs go on the serving workers against one of the first kind, whose slots are so many in all."""
    if len(setup.kinds) <= 2 or slots == 0:
        return 1.0
    return can_do(setup, state) * setup.kinds[0].job_time / slots


@inner
def take_along(setup: Setup, state: State, i: int, who: int, of: float, to: int) -> float:
    """Worker i, who holds one part in `of` of them, leaves the rest and takes its jobs `to` those that drain, or nowhere. Returns
    how many."""
    fixed = setup.fixed[0]
    taken = 0.0
    stages = state.held_jobs.shape[1]
    for stage in range(stages):
        there = state.held_jobs[who, stage]
        own = min(there, int(there / of + uniform(stream_of(fixed.seed, STREAM_RETURN), 128 * i + 2 * stage + who)))
        state.held_jobs[who, stage] -= own
        taken += own
        if to != NOBODY:
            state.held_jobs[to, stage] += own
        elif own > 0:
            state.now[0].repeated += own * (stage + 0.5) / stages if not fixed.either else 0.5 * own
    return taken


@inner
def drain_jobs(setup: Setup, state: State, i: int) -> None:
    """Worker i takes no more jobs and goes on with those that it holds."""
    if setup.fixed[0].held_jobs:
        take_along(setup, state, i, SERVING, slots_of(setup, state) / setup.kinds[state.instances[i].kind].concurrency, DRAINING)


@inner
def return_jobs(setup: Setup, state: State, i: int, time: float, drained: float) -> None:
    """The jobs that worker i had under way when it ended go back to the head of the backlog.

    In a steady flow they are evenly spread over their length; those whose rest is longer than the `drained` seconds are given
    back. What had been done of them is done twice.
    """
    now = state.now[0]
    fixed = setup.fixed[0]
    if fixed.held_jobs:
        if state.instances[i].state == Life.DRAINING:
            returned = take_along(setup, state, i, DRAINING, now.draining + 1.0, NOBODY)
        else:
            share = slots_of(setup, state) / setup.kinds[state.instances[i].kind].concurrency
            returned = take_along(setup, state, i, SERVING, share, NOBODY)
        repeated = returned
    else:
        kind = setup.kinds[state.instances[i].kind]
        part = min(1.0, drained / kind.job_time)
        under_way = now.busy * kind.concurrency
        returned = under_way * (1.0 - part)
        repeated = min(now.served, 0.5 * under_way * (1.0 - part * part))
        now.served -= repeated
        now.repeated += repeated
    if returned <= 0.0:
        return
    now.departed -= repeated
    now.backlog += repeated
    now.returned += returned
    while now.head > 0 and state.entered[now.head] > now.departed:
        now.head -= 1
    note(state, time, EventKind.JOBS_RETURNED, Cause.NEED, i, int(round(returned)), 0, NOBODY)


@hot
def taken_from_pile(setup: Setup, state: State, k: int, number: float) -> float:
    """So many jobs leave the pile, the oldest first. Returns how long they had waited on average (s)."""
    now = state.now[0]
    entered = state.entered
    now.head = entry_tick(entered, now.departed, now.head, k)
    oldest = entry_time(entered, now.departed, now.head)
    now.departed = min(entered[k + 1], now.departed + number)
    now.head = entry_tick(entered, now.departed, now.head, k)
    newest = entry_time(entered, now.departed, now.head)
    return max(0.0, k + 0.5 - 0.5 * (oldest + newest)) * setup.fixed[0].tick


@inner
def fail_jobs(setup: Setup, state: State, k: int, done: float) -> float:
    """Of the jobs done in tick k those that fail of their workers go back to the head of the pile, and are done again. Returns
    how many."""
    now = state.now[0]
    whole, failed = can_do(setup, state), 0.0
    if whole <= 0.0:
        return 0.0
    for m in range(len(setup.kinds)):
        kind, crew = setup.kinds[m], state.crews[m]
        own = errors_of(setup, m, k, done * crew.serving * kind.capacity / whole)
        crew.done = crew.errors = own
        failed += own
    failed = min(failed, done)
    now.departed -= failed
    now.backlog += failed
    now.repeated += failed
    while now.head > 0 and state.entered[now.head] > now.departed:
        now.head -= 1
    return failed


@hot
def do_jobs(setup: Setup, state: State, first: int, goal: int) -> int:
    """The jobs of each tick from `first` to before `goal` join the pile, and the workers do what they can of it. Returns
    `goal`."""
    for k in range(first, goal):
        do_tick(setup, state, k)
    return goal


@part
def do_tick(setup: Setup, state: State, k: int) -> None:
    """The same for tick k alone."""
    now = state.now[0]
    fixed = setup.fixed[0]
    arrived = setup.arrivals[k]
    entered = state.entered
    entered[k + 1] = entered[k] + arrived
    part = stressed_part(setup, state) if now.uneven and now.serving > 0 else 1.0
    capacity = can_do(setup, state) * part
    there = entered[k + 1] - now.departed
    waited = 0.0
    if fixed.held_jobs:
        slots = slots_of(setup, state)
        pace = part * pace_of(setup, state, slots)
        done = float(finish(setup, state, k, SERVING, pace) + finish(setup, state, k, DRAINING, 1.0))
        busy = under_way_by(state, SERVING)
        taken = float(max(0, min(int(there), slots - busy)))
        if taken > 0.0:
            take_up(setup, state, k, int(taken))
            waited = taken_from_pile(setup, state, k, taken)
        now.busy = min(1.0, (busy + taken) / slots) if slots > 0 else 0.0
        now.backlog = entered[k + 1] - now.departed
        now.in_use = now.backlog + busy + taken + under_way_by(state, DRAINING)
    else:
        can = capacity * fixed.tick
        if now.draining > 0:
            can += draining_rate(setup, state, k * fixed.tick) * fixed.tick
        if fixed.unevenness > 0.0:
            can = fixed.unevenness * poisson(stream_of(fixed.seed, STREAM_FINISH), k, can / fixed.unevenness)
        done = taken = min(there, can)
        if there > can or now.backlog > 0.0:
            waited = taken_from_pile(setup, state, k, taken)
        else:
            now.departed = entered[k + 1]
            now.head = k
        now.busy = min(1.0, done / can) if can > 0.0 else 0.0
        now.backlog = entered[k + 1] - now.departed
        now.in_use = now.backlog + done / fixed.tick * setup.kinds[0].job_time
    if fixed.fails:
        done -= fail_jobs(setup, state, k, done)
    now.served += done
    meter = state.meters[0]
    meter.served += done
    meter.arrived += arrived
    row = state.series[noted(state, k)]
    row.capacity, row.served, row.taken, row.failed, row.waiting = capacity, done, taken, 0.0, now.backlog
    row.seated = 0.0
    row.age, row.in_use = 0.0, now.in_use
    if now.backlog > 1e-9:
        now.head = entry_tick(entered, now.departed, now.head, k)
        row.age = (k + 1 - entry_time(entered, now.departed, now.head)) * fixed.tick
    row.short = row.age > fixed.patience
    row.latency = waited if taken > 0.0 else math.nan
    row.cpu = math.nan
    if now.serving > 0:
        row.cpu = read_cpu(setup, state, fixed.idle_cpu + (fixed.full_cpu - fixed.idle_cpu) * now.busy)
    if fixed.builds > 1:
        for m in range(len(setup.kinds)):
            crew = state.crews[m]
            crew.cpu = fixed.idle_cpu + (fixed.full_cpu - fixed.idle_cpu) * now.busy
            if capacity > 0.0:
                crew.done += done * crew.serving * setup.kinds[m].capacity * part / capacity
        tell_sides(setup, state)
