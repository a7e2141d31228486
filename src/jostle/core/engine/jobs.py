"""Jobs: one pile, from which every worker takes the oldest. Work under way is taken as a steady flow."""

import math

from jostle.core.compiled import hot, inner
from jostle.core.engine.code import Life
from jostle.core.engine.fifo import entry_tick, entry_time
from jostle.core.engine.setup import Setup
from jostle.core.engine.share import free_part
from jostle.core.engine.state import State


@inner
def draining_rate(setup: Setup, state: State, time: float) -> float:
    """Jobs per second that leaving workers still finish: those under way, evenly spread over their length."""
    fixed = setup.fixed[0]
    rate = 0.0
    for a in range(state.now[0].living):
        one = state.instances[state.alive[a]]
        if one.state == Life.DRAINING:
            rate += fixed.capacity * max(0.0, 1.0 - (time - one.drains) / fixed.job_time)
    return rate * state.now[0].busy


@inner
def stressed_part(setup: Setup, state: State) -> float:
    """Part of the serving workers' capacity that stress leaves; clears `uneven` once none is stressed."""
    now = state.now[0]
    left = 0.0
    now.uneven = False
    for a in range(now.living):
        one = state.instances[state.alive[a]]
        if one.state == Life.SERVING:
            left += free_part(setup, one.stress)
            now.uneven = now.uneven or one.stress > 0.0
    return left / now.serving


@hot
def do_jobs(setup: Setup, state: State, k: int) -> None:
    """Tick k's jobs join the pile, and the workers do what they can of it."""
    now = state.now[0]
    fixed = setup.fixed[0]
    arrived = setup.arrivals[k]
    entered = state.entered
    entered[k + 1] = entered[k] + arrived
    capacity = now.serving * fixed.capacity
    if now.uneven and now.serving > 0:
        capacity *= stressed_part(setup, state)
    can = capacity * fixed.tick
    if now.draining > 0:
        can += draining_rate(setup, state, k * fixed.tick) * fixed.tick
    there = entered[k + 1] - now.departed
    done = min(there, can)
    waited = 0.0
    if there > can or now.backlog > 0.0:
        now.head = entry_tick(entered, now.departed, now.head, k)
        oldest = entry_time(entered, now.departed, now.head)
        now.departed = min(entered[k + 1], now.departed + done)
        now.head = entry_tick(entered, now.departed, now.head, k)
        newest = entry_time(entered, now.departed, now.head)
        waited = max(0.0, k + 0.5 - 0.5 * (oldest + newest)) * fixed.tick
    else:
        now.departed = entered[k + 1]
        now.head = k
    now.backlog = entered[k + 1] - now.departed
    now.served += done
    now.in_use = now.backlog + done / fixed.tick * fixed.job_time
    meter = state.meters[0]
    meter.served += done
    meter.arrived += arrived
    row = state.series[k]
    row.capacity, row.served, row.failed, row.waiting = capacity, done, 0.0, now.backlog
    row.age = (k + 1 - entry_time(entered, now.departed, now.head)) * fixed.tick if now.backlog > 1e-9 else 0.0
    row.short = row.age > fixed.patience
    row.latency = waited if done > 0.0 else math.nan
    if now.serving > 0:
        now.busy = min(1.0, done / can) if can > 0.0 else 0.0
        row.cpu = fixed.idle_cpu + (fixed.full_cpu - fixed.idle_cpu) * now.busy
    else:
        row.cpu = math.nan
