"""One instance as a counter with several clerks: how long answers take at a given load.

An instance with v vCPUs is an M/M/v queue. Of a request's stay, the wait is exponential with probability C (Erlang's
delay formula) and zero otherwise, and the service is exponential.
"""

import math

import numpy as np

from jostle.core.compiled import leaf, maker

LOADS = 256
DELAYS = 64
# Utilisation at which the stationary queue is capped: closer to 1 it takes longer to settle than any load lasts.
TOP_LOAD = 0.99
SPAN = -math.log(1.0 - TOP_LOAD)


@leaf
def erlang_c(servers: int, load: float) -> float:
    """Probability that an arrival has to wait in M/M/v, `load` being the utilisation of each server, 0 to below 1.

    Through Erlang B by its recurrence (Cooper, Introduction to Queueing Theory, 2nd ed., 3.5).
    """
    offered = servers * load
    blocked = 1.0
    for n in range(1, servers + 1):
        blocked = offered * blocked / (n + offered * blocked)
    return blocked / (1.0 - load * (1.0 - blocked))


@leaf
def stay_beyond(t: float, wait_share: float, wait_rate: float, service_rate: float) -> float:
    """Probability that wait plus service take longer than t seconds.

    `wait_share` is Erlang C, `wait_rate` (1/s) the rate of the wait where there is one, `service_rate` (1/s) that of
    one server. The sum of two exponentials (Ross, Introduction to Probability Models, 5.2.4).
    """
    if t <= 0.0:
        return 1.0
    served = math.exp(-service_rate * t)
    gap = wait_rate - service_rate
    if abs(gap) < 1e-9 * service_rate:
        both = served * (1.0 + service_rate * t)
    else:
        both = (wait_rate * served - service_rate * math.exp(-wait_rate * t)) / gap
    return (1.0 - wait_share) * served + wait_share * both


@leaf
def load_position(load: float) -> float:
    """Place of a utilisation on the grid of LOADS loads, which is even in log(1 - load) and so finest near 1."""
    return -math.log(1.0 - min(load, TOP_LOAD)) / SPAN * (LOADS - 1)


@leaf
def load_at(position: float) -> float:
    """Utilisation at a place on the grid: the inverse of `load_position`."""
    return 1.0 - math.exp(-position * SPAN / (LOADS - 1))


@maker
def wait_tables(servers: int, capacity: float, service_rate: float) -> np.ndarray:
    """Rows over the grid of loads: Erlang C, rate of the wait (1/s), 95th percentile of the stay (s). Shape (3, LOADS).

    `capacity` is what all servers of the instance finish together, 1/s.
    """
    tables = np.empty((3, LOADS))
    for i in range(LOADS):
        load = load_at(float(i))
        share = erlang_c(servers, load)
        rate = capacity * (1.0 - load)
        low, high = 0.0, 1.0 / service_rate
        while stay_beyond(high, share, rate, service_rate) > 0.05:
            high *= 2.0
        for _ in range(50):
            middle = 0.5 * (low + high)
            if stay_beyond(middle, share, rate, service_rate) > 0.05:
                low = middle
            else:
                high = middle
        tables[0, i], tables[1, i], tables[2, i] = share, rate, 0.5 * (low + high)
    return tables


@leaf
def mixture_beyond(t: float, weights: np.ndarray, tables: np.ndarray, service_rate: float, delay_step: float) -> float:
    """Requests whose wait and service take longer than t seconds, of `weights` requests, shape (DELAYS + 1, LOADS).

    Column i of the weights is load i of the grid; row j > 0 is a backlog delay of (j - 1/2) * delay_step seconds.
    """
    beyond = 0.0
    for j in range(weights.shape[0]):
        delay = 0.0 if j == 0 else (j - 0.5) * delay_step
        for i in range(weights.shape[1]):
            if weights[j, i] > 0.0:
                beyond += weights[j, i] * stay_beyond(t - delay, tables[0, i], tables[1, i], service_rate)
    return beyond


@leaf
def mixture_quantile(
    allowed: float, weights: np.ndarray, tables: np.ndarray, service_rate: float, delay_step: float, longest: float
) -> float:
    """Time (s) that all but `allowed` requests of the weights stay under, found by halving within 0 to `longest`."""
    low, high = 0.0, longest
    for _ in range(40):
        middle = 0.5 * (low + high)
        if mixture_beyond(middle, weights, tables, service_rate, delay_step) > allowed:
            low = middle
        else:
            high = middle
    return 0.5 * (low + high)
