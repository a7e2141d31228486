"""The loop over ticks: lifecycle, demand, meters, evaluation, money, in this order."""

import math

import numpy as np

from jostle.core.compiled import leaf
from jostle.core.engine.arbitration import evaluate
from jostle.core.engine.code import NOBODY, SHORT_BEGINS, SHORT_ENDS
from jostle.core.engine.instance import note, settle
from jostle.core.engine.meter import take_sample
from jostle.core.engine.queue import DELAYS, load_position
from jostle.core.engine.state import Setup, State


@leaf
def arrived_before(cumulative: np.ndarray, tick: float, time: float) -> float:
    """Requests that arrived before `time` (s from the start), even within ticks; none before the start."""
    if time <= 0.0:
        return 0.0
    k = int(time / tick)
    if k + 1 >= len(cumulative):
        return cumulative[-1]
    return cumulative[k] + (cumulative[k + 1] - cumulative[k]) * (time / tick - k)


@leaf
def arrival_tick(cumulative: np.ndarray, amount: float, head: int) -> int:
    """The tick in which request number `amount` arrived, searched for from tick `head` on."""
    while head + 2 < len(cumulative) and cumulative[head + 1] < amount:
        head += 1
    return head


@leaf
def arrival_time(cumulative: np.ndarray, amount: float, head: int) -> float:
    """When request number `amount` arrived, in ticks; `head` is the tick of its arrival."""
    arrived = cumulative[head + 1] - cumulative[head]
    return head + min(1.0, max(0.0, (amount - cumulative[head]) / arrived)) if arrived > 0.0 else float(head + 1)


@leaf
def queue_up(setup: Setup, state: State, k: int, can: float) -> tuple[float, float, float]:
    """Tick k where requests wait: first come, first served; what has waited past the timeout fails.

    Returns requests served, requests failed, and how long those served had waited on average (s): from the middle of
    their arrivals to the middle of the tick.
    """
    now = state.now[0]
    cumulative = setup.cumulative
    first = now.departed
    served = min(cumulative[k + 1] - first, can)
    last = first + served
    now.head = arrival_tick(cumulative, first, now.head)
    oldest = arrival_time(cumulative, first, now.head)
    now.head = arrival_tick(cumulative, last, now.head)
    newest = arrival_time(cumulative, last, now.head)
    waited = min(setup.timeout, max(0.0, k + 0.5 - 0.5 * (oldest + newest)) * setup.tick)
    if served < can:
        now.departed = cumulative[k + 1]
        return served, 0.0, waited
    failed = max(0.0, arrived_before(cumulative, setup.tick, (k + 1) * setup.tick - setup.timeout) - last)
    now.departed = last + failed
    return served, failed, waited


@leaf
def serve(setup: Setup, state: State, k: int) -> None:
    """Tick k's demand meets the serving instances."""
    now = state.now[0]
    capacity = now.serving * setup.capacity
    can = capacity * setup.tick
    served, failed, waited = setup.cumulative[k + 1] - now.departed, 0.0, 0.0
    if now.backlog > 0.0 or served > can:
        served, failed, waited = queue_up(setup, state, k, can)
    else:
        now.departed = setup.cumulative[k + 1]
        now.head = k
    now.backlog = setup.cumulative[k + 1] - now.departed
    now.served += served
    now.failed += failed
    now.meter_served += served
    now.meter_failed += failed
    row = state.series[k]
    row.capacity, row.served, row.failed, row.waiting = capacity, served, failed, now.backlog
    row.serving, row.desired, row.billed = now.serving, now.desired, now.billed
    if now.serving > 0:
        busy = served / can
        cpu = setup.idle_cpu + (1.0 - setup.idle_cpu) * busy
        position = load_position(busy)
        low = int(position)
        part = position - low
        late = 0 if waited <= 0.0 else 1 + min(DELAYS - 1, int(waited / setup.timeout * DELAYS))
        high = min(low + 1, setup.waits.shape[1] - 1)
        state.stay[late, low] += served * (1.0 - part)
        state.stay[late, high] += served * part
        if setup.meter_latency:
            state.period_stay[late, low] += served * (1.0 - part)
            state.period_stay[late, high] += served * part
        stay = setup.waits[2, low] * (1.0 - part) + setup.waits[2, high] * part
        row.cpu = cpu
        row.latency = setup.base_latency + waited + stay
        now.cpu_ticks += cpu * now.serving
        now.served_ticks += now.serving
        now.meter_cpu += cpu * now.serving
        now.meter_serving += now.serving
    else:
        row.cpu = math.nan
        row.latency = math.nan
    short = now.backlog > 0.0 or failed > 0.0
    if short != now.short:
        note(state, k * setup.tick, SHORT_BEGINS if short else SHORT_ENDS, NOBODY, 0, 0, NOBODY)
        now.short = short


@leaf
def advance(setup: Setup, state: State, until: int) -> bool:
    """Play the ticks before number `until`. False where the record's room ran out first: grow it and go on."""
    now = state.now[0]
    until = min(until, setup.ticks)
    spare = 2 * setup.maximum + 4
    while now.tick < until:
        crowd = now.living + spare
        if now.launched + spare > len(state.instances) or now.events + 2 * crowd > len(state.events):
            return False
        k = now.tick
        time = k * setup.tick
        if time >= now.next_due:
            settle(setup, state, time)
        serve(setup, state, k)
        now.spend += now.billed * setup.price * setup.tick
        if (k + 1) % setup.period_ticks == 0:
            take_sample(setup, state)
        if (k + 1) % setup.evaluate_ticks == 0:
            evaluate(setup, state, (k + 1) * setup.tick)
        now.tick = k + 1
    return True
