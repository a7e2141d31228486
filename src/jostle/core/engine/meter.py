"""Meters: dials read at intervals, whose readings reach the policies late."""

import math

import numpy as np

from jostle.core.compiled import leaf
from jostle.core.engine.code import (
    AVERAGE,
    BACKLOG,
    BACKLOG_PER_INSTANCE,
    CPU,
    FAILED_SHARE,
    LATENCY_P95,
    MAXIMUM,
    MINIMUM,
    REQUESTS_PER_INSTANCE,
)
from jostle.core.engine.queue import mixture_quantile
from jostle.core.engine.state import Setup, State


@leaf
def take_sample(setup: Setup, state: State) -> None:
    """Close the running meter period: one reading of each metric, over the instances that served in it.

    Metrics that come from instances have no reading (nan) where none served.
    """
    now = state.now[0]
    k = now.samples
    row = state.samples
    period = setup.period_ticks * setup.tick
    asked = now.meter_served + now.meter_failed
    serving = now.meter_serving / setup.period_ticks
    state.metered[k] = serving
    row[BACKLOG, k] = now.backlog
    row[FAILED_SHARE, k] = now.meter_failed / asked if asked > 0.0 else 0.0
    if serving > 0.0:
        row[CPU, k] = now.meter_cpu / now.meter_serving
        row[REQUESTS_PER_INSTANCE, k] = now.meter_served / (serving * period)
        row[BACKLOG_PER_INSTANCE, k] = now.backlog / serving
        if setup.meter_latency and now.meter_served > 0.0:
            step = setup.timeout / (state.stay.shape[0] - 1)
            longest = setup.timeout + 100.0 / setup.service_rate + 10.0 / (setup.waits[1, -1])
            row[LATENCY_P95, k] = setup.base_latency + mixture_quantile(
                0.05 * now.meter_served, state.period_stay, setup.waits, setup.service_rate, step, longest
            )
    if setup.meter_latency:
        state.period_stay[:] = 0.0
    now.meter_cpu = now.meter_serving = now.meter_served = now.meter_failed = 0.0
    now.samples += 1


@leaf
def fold_window(samples: np.ndarray, published: int, window: int, fold: int) -> float:
    """The last `window` of the `published` samples as one value; nan where fewer than half of them are there."""
    there = 0
    total = 0.0
    low, high, latest = math.inf, -math.inf, math.nan
    for k in range(max(0, published - window), published):
        value = samples[k]
        if math.isnan(value):
            continue
        there += 1
        total += value
        low, high, latest = min(low, value), max(high, value), value
    if 2 * there < window or there == 0:
        return math.nan
    if fold == AVERAGE:
        return total / there
    if fold == MINIMUM:
        return low
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
