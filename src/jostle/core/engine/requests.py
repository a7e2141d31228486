"""Requests: visitors at a counter, each served and gone within moments."""

import math

from jostle.core.compiled import hot, inner
from jostle.core.engine.code import Life
from jostle.core.engine.fifo import entered_before, entry_tick, entry_time
from jostle.core.engine.queue import DELAYS, load_position
from jostle.core.engine.setup import Setup
from jostle.core.engine.share import drift, free_part, uneven_can
from jostle.core.engine.state import State


@inner
def queue_up(setup: Setup, state: State, k: int, can: float) -> tuple[float, float, float]:
    """Tick k where requests wait: first come, first served; what has waited past the timeout fails.

    Returns requests served, requests failed, and how long those served had waited on average (s): from the middle of
    their arrivals to the middle of the tick.
    """
    now = state.now[0]
    fixed = setup.fixed[0]
    entered = state.entered
    first = now.departed
    served = min(entered[k + 1] - first, can)
    last = first + served
    now.head = entry_tick(entered, first, now.head, k)
    oldest = entry_time(entered, first, now.head)
    now.head = entry_tick(entered, last, now.head, k)
    newest = entry_time(entered, last, now.head)
    waited = min(fixed.timeout, max(0.0, k + 0.5 - 0.5 * (oldest + newest)) * fixed.tick)
    if served < can:
        now.departed = entered[k + 1]
        return served, 0.0, waited
    failed = max(0.0, entered_before(entered, fixed.tick, (k + 1) * fixed.tick - fixed.timeout) - last)
    now.departed = last + failed
    return served, failed, waited


@hot
def answered(setup: Setup, state: State, served: float, busy: float, late: int) -> float:
    """Count so many answers at a load and a delay; returns the 95th percentile of wait and service there (s)."""
    position = load_position(busy)
    low = int(position)
    part = position - low
    high = min(low + 1, setup.waits.shape[1] - 1)
    state.stay[late, low] += served * (1.0 - part)
    state.stay[late, high] += served * part
    if setup.fixed[0].meter_latency:
        now = state.now[0]
        now.low_load, now.high_load = min(now.low_load, low), max(now.high_load, high)
        now.high_delay = max(now.high_delay, late)
        state.period_stay[late, low] += served * (1.0 - part)
        state.period_stay[late, high] += served * part
    return setup.waits[2, low] * (1.0 - part) + setup.waits[2, high] * part


@inner
def answered_unevenly(setup: Setup, state: State, work: float, done: float, late: int) -> tuple[float, float]:
    """The same for instances that differ, `done` being the part of what they could do that they did.

    Returns the mean of their CPUs and, weighted by answers, of their percentiles.
    """
    now = state.now[0]
    fixed = setup.fixed[0]
    cpu = stay = answers = 0.0
    for z in range(len(state.zones)):
        state.zones[z].cpu = 0.0
    for a in range(now.living):
        one = state.instances[state.alive[a]]
        if one.state != Life.SERVING:
            continue
        free = free_part(setup, one.stress)
        can = fixed.capacity * fixed.tick * free
        served = done * min(can, work * one.share)
        busy = served / can
        stay += served * answered(setup, state, served, busy, late)
        answers += served
        own = min(1.0, fixed.idle_cpu + one.stress + (1.0 - fixed.idle_cpu) * free * busy)
        cpu += own
        state.zones[one.zone].cpu += own
    return cpu / now.serving, stay / answers if answers > 0.0 else setup.waits[2, 0]


@hot
def serve_requests(setup: Setup, state: State, k: int) -> None:
    """Tick k's requests meet the serving instances. Broken ones that are still given work fail their share."""
    now = state.now[0]
    fixed = setup.fixed[0]
    arrived = setup.arrivals[k]
    lost = arrived * now.dead / (now.serving + now.dead) if now.dead > 0 else 0.0
    state.entered[k + 1] = state.entered[k] + arrived - lost
    work = state.entered[k + 1] - now.departed
    all_can = now.serving * fixed.capacity * fixed.tick
    can = all_can
    uneven = now.uneven and now.serving > 0
    if uneven:
        drift(setup, state)
        can = uneven_can(setup, state, work)
    served, failed, waited = work, 0.0, 0.0
    if now.backlog > 0.0 or served > can:
        served, failed, waited = queue_up(setup, state, k, can)
    else:
        now.departed = state.entered[k + 1]
        now.head = k
    now.backlog = state.entered[k + 1] - now.departed
    now.in_use = arrived / fixed.tick
    failed += lost
    now.served += served
    now.failed += failed
    meter = state.meters[0]
    meter.served += served
    meter.failed += failed
    meter.arrived += arrived
    row = state.series[k]
    row.capacity, row.served, row.failed, row.waiting = all_can / fixed.tick, served, failed, now.backlog
    row.age = 0.0
    if now.backlog > 0.0:
        now.head = entry_tick(state.entered, now.departed, now.head, k)
        row.age = (k + 1 - entry_time(state.entered, now.departed, now.head)) * fixed.tick
    row.short = now.backlog > 0.0 or failed > 0.0
    if now.serving == 0:
        row.cpu = math.nan
        row.latency = math.nan
        return
    delay = min(fixed.timeout, waited + now.extra_latency)
    late = 0 if delay <= 0.0 else 1 + min(DELAYS - 1, int(delay / fixed.timeout * DELAYS))
    now.busy = served / all_can
    if uneven:
        cpu, stay = answered_unevenly(setup, state, work, served / can if can > 0.0 else 0.0, late)
    else:
        cpu = fixed.idle_cpu + (1.0 - fixed.idle_cpu) * now.busy
        stay = answered(setup, state, served, now.busy, late)
    row.cpu = cpu
    row.latency = fixed.base_latency + delay + stay
