"""Meters: dials read at intervals, whose readings reach the policies late."""

import math

import numpy as np

from jostle.core.compiled import hot, inner, leaf
from jostle.core.engine.code import (
    AGE,
    AVERAGE,
    BACKLOG,
    BACKLOG_PER_INSTANCE,
    COUNT,
    CPU,
    FAILED_SHARE,
    FREE_SEATS,
    FREE_SEATS_SHARE,
    IN_USE,
    JOBS,
    LATENCY_P95,
    MAXIMUM,
    MEMORY,
    METRICS,
    MINIMUM,
    NETWORK_IN,
    NETWORK_OUT,
    P90,
    REQUESTS,
    REQUESTS_PER_INSTANCE,
    SESSIONS,
    SESSIONS_PER_INSTANCE,
    SUM,
)
from jostle.core.engine.queue import mixture_quantile
from jostle.core.engine.setup import Setup
from jostle.core.engine.state import State


@hot
def run_meters(setup: Setup, state: State, k: int) -> None:
    """Add tick k to the running meter period."""
    now = state.now[0]
    row = state.series[k]
    if now.serving == 0:
        return
    meter = state.meters[0]
    meter.cpu += row.cpu * now.serving
    meter.serving += now.serving
    now.cpu_ticks += row.cpu * now.serving
    now.served_ticks += now.serving
    if not setup.fixed[0].meter_zones:
        return
    for z in range(len(state.zones)):
        zone = state.zones[z]
        meter = state.meters[1 + z]
        meter.cpu += zone_cpu(setup, state, z, row.cpu)
        meter.serving += zone.serving
        meter.sessions += zone.sessions
        meter.served += row.served * zone.serving / now.serving


@inner
def zone_cpu(setup: Setup, state: State, z: int, group_cpu: float) -> float:
    """Sum of the CPUs of a zone's serving instances."""
    fixed = setup.fixed[0]
    zone = state.zones[z]
    if fixed.work == SESSIONS:
        return zone.serving * fixed.idle_cpu + (fixed.full_cpu - fixed.idle_cpu) * zone.sessions / fixed.capacity
    return zone.cpu if state.now[0].uneven and fixed.work == REQUESTS else zone.serving * group_cpu


@hot
def under_way(setup: Setup, per_instance: float, sessions: float) -> float:
    """Requests, jobs or sessions that an instance has under way, those requests that wait aside."""
    fixed = setup.fixed[0]
    if fixed.work == SESSIONS:
        return sessions
    if fixed.work == JOBS:
        return per_instance * fixed.job_time
    return per_instance * (fixed.base_latency + 1.0 / fixed.service_rate)


@hot
def read_meter(setup: Setup, state: State, z: int, k: int) -> None:
    """Reading k of the metrics of the group (z 0) or of a zone, over the instances that served in the period."""
    fixed = setup.fixed[0]
    meter = state.meters[z]
    if meter.serving <= 0.0:
        return
    row = state.samples[z]
    period = fixed.period_ticks * fixed.tick
    serving = meter.serving / fixed.period_ticks
    each = meter.served / (serving * period)
    sessions = meter.sessions / meter.serving
    row[CPU, k] = meter.cpu / meter.serving
    row[REQUESTS_PER_INSTANCE, k] = each
    row[SESSIONS_PER_INSTANCE, k] = sessions
    busy = under_way(setup, each, sessions)
    row[MEMORY, k] = min(1.0, fixed.idle_memory + fixed.memory_each * busy)
    flow = sessions if fixed.work == SESSIONS else each
    row[NETWORK_IN, k] = fixed.in_each * flow
    row[NETWORK_OUT, k] = fixed.out_each * flow


@inner
def read_latency(setup: Setup, state: State, served: float) -> float:
    """95th percentile of the requests answered in the period (s), over the loads and delays that it met."""
    now = state.now[0]
    fixed = setup.fixed[0]
    low, high = now.low_load, now.high_load + 1
    met = state.period_stay[: now.high_delay + 1, low:high]
    tables = setup.waits[:, low:high]
    step = fixed.timeout / (state.stay.shape[0] - 1)
    longest = fixed.timeout + 100.0 / fixed.service_rate + 10.0 / (setup.waits[1, -1])
    found = mixture_quantile(0.05 * served, met, tables, fixed.service_rate, step, longest)
    met[:] = 0.0
    now.low_load, now.high_load, now.high_delay = len(setup.waits[0]), 0, 0
    return fixed.base_latency + found


@hot
def take_sample(setup: Setup, state: State, k: int) -> None:
    """Close the meter period that ends with tick k: one reading of each metric.

    Metrics that come from instances have no reading (nan) where none served.
    """
    now = state.now[0]
    fixed = setup.fixed[0]
    s = now.samples
    row = state.samples[0]
    meter = state.meters[0]
    serving = meter.serving / fixed.period_ticks
    state.metered[s] = serving
    asked = meter.served + meter.failed
    row[BACKLOG, s] = now.backlog
    row[AGE, s] = state.series[k].age
    row[FAILED_SHARE, s] = meter.failed / asked if asked > 0.0 else 0.0
    row[IN_USE, s] = meter.arrived / (fixed.period_ticks * fixed.tick) if fixed.work == REQUESTS else now.in_use
    for z in range(state.samples.shape[0]):
        read_meter(setup, state, z, s)
    if serving > 0.0:
        row[BACKLOG_PER_INSTANCE, s] = now.backlog / serving
        if fixed.work == SESSIONS:
            seats = serving * fixed.capacity
            free = seats - meter.sessions / fixed.period_ticks
            row[FREE_SEATS, s] = free
            row[FREE_SEATS_SHARE, s] = free / seats
        if fixed.meter_latency and meter.served > 0.0:
            row[LATENCY_P95, s] = read_latency(setup, state, meter.served)
    for o in range(setup.outside.shape[0]):
        row[METRICS + o, s] = setup.outside[o, s]
    for z in range(len(state.meters)):
        meter = state.meters[z]
        meter.cpu = meter.serving = meter.served = meter.failed = meter.sessions = meter.arrived = 0.0
    now.samples += 1


@leaf
def ninetieth(samples: np.ndarray, begin: int, end: int, there: int) -> float:
    """The 90th percentile (nearest rank) of the samples that are there, found by counting."""
    rank = int(math.ceil(0.9 * there - 1e-9))
    found = math.inf
    for k in range(begin, end):
        value = samples[k]
        if math.isnan(value) or value >= found:
            continue
        below = 0
        for j in range(begin, end):
            if samples[j] <= value:
                below += 1
        if below >= rank:
            found = value
    return found


@leaf
def fold_window(samples: np.ndarray, published: int, window: int, fold: int) -> float:
    """The last `window` of the `published` samples as one value; nan where fewer than half of them are there."""
    there = 0
    total = 0.0
    low, high, latest = math.inf, -math.inf, math.nan
    begin = max(0, published - window)
    for k in range(begin, published):
        value = samples[k]
        if math.isnan(value):
            continue
        there += 1
        total += value
        low, high, latest = min(low, value), max(high, value), value
    if fold == COUNT:
        return float(there)
    if 2 * there < window or there == 0:
        return math.nan
    if fold == AVERAGE:
        return total / there
    if fold == SUM:
        return total
    if fold == MINIMUM:
        return low
    if fold == P90:
        return ninetieth(samples, begin, published, there)
    return high if fold == MAXIMUM else latest


@leaf
def instances_metered(samples: np.ndarray, metered: np.ndarray, published: int, window: int) -> float:
    """Load-weighted number of instances behind a window: sum of n x m over sum of m; plain mean where m is zero."""
    load = total = count = 0.0
    there = 0
    for k in range(max(0, published - window), published):
        if not math.isnan(samples[k]):
            load += samples[k] * metered[k]
            total += samples[k]
            count += metered[k]
            there += 1
    if total > 0.0:
        return load / total
    return count / there if there else 0.0
