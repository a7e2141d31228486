"""What the engine is given (`Setup`, which never changes) and what it moves forward (`State`).

The setup is the stage with its props; the state is where everybody stands at this instant, with the record of how
they came there.
"""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from jostle.core.engine.code import METRICS
from jostle.core.engine.queue import DELAYS, LOADS

Floats = NDArray[np.float64]

POLICY = np.dtype(
    [
        ("kind", "i1"),
        ("metric", "i1"),
        ("below", "?"),
        ("level", "f8"),  # level to hold, or threshold, in the metric's unit
        ("tolerance", "f8"),  # share of the level
        ("window", "i4"),  # samples
        ("fold", "i1"),
        ("action", "i1"),
        ("amount", "i4"),
        ("percent", "?"),
        ("cooldown", "f8"),  # s
        ("removes", "?"),
        ("paused", "?"),
    ],
)

NOW = np.dtype(
    [
        ("tick", "i8"),  # next tick to be played
        ("serving", "i4"),
        ("billed", "i4"),  # instances that cost money
        ("desired", "i4"),
        ("next_due", "f8"),  # s from the start: earliest change of an instance's state
        ("departed", "f8"),  # requests served or failed, cumulative
        ("head", "i8"),  # a tick not after that in which the oldest waiting request arrived
        ("served", "f8"),
        ("failed", "f8"),
        ("backlog", "f8"),
        ("spend", "f8"),
        ("group_wait_until", "f8"),
        ("launched", "i8"),  # instances ever
        ("living", "i8"),  # of them not yet gone
        ("events", "i8"),
        ("samples", "i8"),
        ("evaluations", "i8"),
        ("cpu_ticks", "f8"),  # sum over ticks of CPU x serving instances
        ("served_ticks", "f8"),  # sum over ticks of serving instances
        ("meter_cpu", "f8"),  # the sums of the running meter period
        ("meter_serving", "f8"),
        ("meter_served", "f8"),
        ("meter_failed", "f8"),
        ("short", "?"),
        ("at_limit", "?"),
    ],
)

INSTANCE = np.dtype(
    [
        ("requested", "f8"),
        ("booted", "f8"),
        ("serves", "f8"),
        ("drains", "f8"),  # nan until it is told to leave
        ("gone", "f8"),  # nan while it is there
        ("state", "i1"),
        ("asked_by", "i2"),
        ("sent_by", "i2"),
    ],
)

EVENT = np.dtype([("time", "f8"), ("kind", "i1"), ("who", "i4"), ("before", "i4"), ("after", "i4"), ("evaluation", "i4")])

DECISION = np.dtype(
    [
        ("time", "f8"),
        ("desired", "i2"),
        ("serving", "i2"),
        ("pending", "i2"),  # booting or warming
        ("wanted", "i4"),  # what the winner asked for, before limits
        ("decided", "i2"),
        ("winner", "i2"),
        ("outcome", "i1"),
        ("group_wait", "f4"),  # s left
    ],
)

VIEW = np.dtype(
    [
        ("value", "f4"),  # what the policy saw, in the metric's unit; nan without data
        ("ask", "i4"),  # the count it asked for
        ("state", "i1"),
        ("wait", "f4"),  # s left of its own wait
    ],
    align=True,
)

TICK = np.dtype(
    [
        ("capacity", "f4"),  # 1/s
        ("served", "f4"),  # requests
        ("failed", "f4"),  # requests
        ("waiting", "f4"),  # requests, at the tick's end
        ("cpu", "f4"),  # share; nan where nothing serves
        ("latency", "f4"),  # s, 95th percentile; nan where nothing serves
        ("serving", "i2"),
        ("desired", "i2"),
        ("billed", "i2"),
    ],
    align=True,
)


class Setup(NamedTuple):
    """Everything that decides a rehearsal, in plain numbers."""

    tick: float
    ticks: int
    cumulative: Floats  # requests arrived before each tick, shape (ticks + 1,)
    rate: Floats  # 1/s, shape (ticks,)
    vcpus: int
    capacity: float  # of one instance, 1/s
    service_rate: float  # of one vCPU, 1/s
    idle_cpu: float
    base_latency: float
    timeout: float
    waits: Floats  # see queue.wait_tables
    boot: float
    warm_up: float
    drain: float
    minimum: int
    maximum: int
    first_count: int
    group_cooldown: float
    evaluate_ticks: int
    period_ticks: int
    meter_delay: float
    meter_latency: bool
    price: float  # per second of an instance
    policies: np.ndarray  # of POLICY


class State(NamedTuple):
    """Where a rehearsal stands, and its record so far. Arrays are changed in place; their lengths may be grown."""

    now: np.ndarray  # one row of NOW
    wait_until: Floats  # s from the start, for each policy
    instances: np.ndarray  # of INSTANCE
    alive: NDArray[np.int64]  # positions of the instances that are not gone, oldest first
    events: np.ndarray  # of EVENT
    decisions: np.ndarray  # of DECISION
    views: np.ndarray  # of VIEW, shape (evaluations, policies)
    samples: NDArray[np.float32]  # meters, shape (METRICS, samples)
    metered: NDArray[np.float32]  # mean number of serving instances of each sample
    stay: Floats  # requests by load and backlog delay, shape (DELAYS + 1, LOADS); see queue.mixture_beyond
    period_stay: Floats  # the same for the running meter period
    series: np.ndarray  # of TICK, shape (ticks,)


def rows(shape: int | tuple[int, ...], kind: np.dtype) -> np.recarray:
    """Empty rows whose fields are attributes, in compiled code and in plain Python alike."""
    return np.zeros(shape, kind).view(np.recarray)


def new_state(setup: Setup) -> State:
    """The instant before the first tick: the first instances serve, nothing waits, no meter has spoken."""
    ticks, policies = setup.ticks, len(setup.policies)
    evaluations, samples = ticks // setup.evaluate_ticks, ticks // setup.period_ticks
    now = rows(1, NOW)
    first = setup.first_count
    room = max(1024, 4 * setup.maximum + first)
    instances = rows(room, INSTANCE)
    instances["drains"] = instances["gone"] = np.nan
    instances["state"][:first] = 2
    instances["asked_by"] = instances["sent_by"] = -1
    alive = np.zeros(room, np.int64)
    alive[:first] = np.arange(first)
    for field in ("serving", "billed", "desired", "launched", "living"):
        now[field] = first
    now["next_due"] = np.inf
    now["group_wait_until"] = -np.inf
    return State(
        now=now,
        wait_until=np.full(policies, -np.inf),
        instances=instances,
        alive=alive,
        events=rows(max(4096, 16 * setup.maximum), EVENT),
        decisions=rows(evaluations, DECISION),
        views=rows((evaluations, policies), VIEW),
        samples=np.full((METRICS, samples), np.nan, np.float32),
        metered=np.zeros(samples, np.float32),
        stay=np.zeros((DELAYS + 1, LOADS)),
        period_stay=np.zeros((DELAYS + 1, LOADS)),
        series=rows(ticks, TICK),
    )


def grown(state: State) -> State:
    """The same state with twice the room for instances and events."""

    def twice(kept: np.ndarray) -> np.ndarray:
        return np.concatenate([kept, np.zeros_like(kept)])

    instances = twice(state.instances).view(np.recarray)
    fresh = slice(len(state.instances), None)
    instances["drains"][fresh] = instances["gone"][fresh] = np.nan
    return state._replace(instances=instances, alive=twice(state.alive), events=twice(state.events).view(np.recarray))
