"""What the engine is given: everything that decides a rehearsal, in plain numbers. It is the stage with its props."""

from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]

POLICY = np.dtype(
    [
        ("kind", "i1"),
        ("metric", "i2"),  # row of the samples
        ("zone", "i2"),  # 0 for the whole group, else 1 + number of the zone
        ("below", "?"),
        ("level", "f8"),  # level to hold, threshold, or what is kept free, in the metric's unit
        ("tolerance", "f8"),  # share of the level
        ("window", "i4"),  # samples
        ("fold", "i1"),
        ("action", "i1"),
        ("amount", "i4"),
        ("percent", "?"),
        ("bands", "i1"),
        ("cooldown", "f8"),  # s
        ("removes", "?"),
        ("paused", "?"),
    ],
)

# What the calendar says at an evaluation; `by` fields are numbers of entries
ORDER = np.dtype([("low", "i2"), ("high", "i2"), ("low_by", "i2"), ("high_by", "i2"), ("gates", "i1"), ("gates_by", "i2")])
# A count to be set once, tried until `until` (s from the start)
SETTING = np.dtype([("time", "f8"), ("until", "f8"), ("count", "i2"), ("entry", "i2")])
INCIDENT = np.dtype([("kind", "i1"), ("begin", "f8"), ("end", "f8"), ("zone", "i2"), ("amount", "f8"), ("fault", "i1")])
HAND = np.dtype([("kind", "i1"), ("time", "f8"), ("number", "i4"), ("amount", "f8"), ("length", "f8")])

FIXED = np.dtype(
    [
        ("tick", "f8"),  # s
        ("ticks", "i8"),
        ("seed", "i8"),
        ("work", "i1"),
        ("vcpus", "i4"),
        ("capacity", "f8"),  # of one instance: requests or jobs, 1/s; sessions: seats
        ("unit", "f8"),  # of one instance, what a Spare policy counts: requests, 1/s; jobs side by side; seats
        ("service_rate", "f8"),  # of one vCPU, 1/s
        ("idle_cpu", "f8"),
        ("full_cpu", "f8"),  # CPU of an instance that gives all it can
        ("base_latency", "f8"),
        ("timeout", "f8"),
        ("sticky", "f8"),  # s
        ("job_time", "f8"),  # s
        ("concurrency", "i4"),
        ("session_end", "f8"),  # chance that a session ends within a tick
        ("pack", "?"),
        ("patience", "f8"),  # s that a job may wait before the group counts as short
        ("idle_memory", "f8"),  # share of the machine's memory
        ("memory_each", "f8"),
        ("in_each", "f8"),  # MB
        ("out_each", "f8"),
        ("boot", "f8"),
        ("boot_spread", "f8"),
        ("start", "f8"),
        ("warm_up", "f8"),  # with the health checks that must pass first
        ("drain", "f8"),
        ("stop", "f8"),
        ("zones", "i4"),
        ("balance_zones", "?"),
        ("minimum", "i4"),
        ("maximum", "i4"),
        ("first_count", "i4"),
        ("base_size", "i4"),
        ("cold", "?"),
        ("surplus", "i4"),
        ("version", "i4"),
        ("first_version", "i4"),
        ("pinned", "i4"),
        ("brake", "i4"),  # 0 for none
        ("brake_percent", "?"),
        ("brake_within", "f8"),
        ("cooldown", "f8"),
        ("paused", "?"),
        ("mode", "i1"),
        ("evaluate_ticks", "i8"),
        ("period_ticks", "i8"),
        ("meter_delay", "f8"),
        ("meter_latency", "?"),
        ("meter_zones", "?"),
        ("health", "i1"),  # the worst fault that is seen
        ("notice", "f8"),  # s from a fault to its being seen
        ("grace", "f8"),
        ("restarts", "i4"),
        ("fault_every", "f8"),  # s; infinite for never
        ("frozen", "f8"),
        ("hung", "f8"),
        ("never_boots", "f8"),
        ("price", "f8"),  # of a running instance, per second, with its disk and address
        ("price_machine", "f8"),  # of that, what is billed at least so long or by the hour
        ("price_stopped", "f8"),
        ("price_group", "f8"),
        ("hourly", "?"),
        ("least_billed", "f8"),
    ],
    align=True,
)


class Setup(NamedTuple):
    """The fixed numbers in one row, and the arrays beside them."""

    fixed: np.ndarray  # one row of FIXED
    arrivals: Floats  # arrived in each tick, shape (ticks,)
    waits: Floats  # see queue.wait_tables
    stays: Floats  # chance that none of so many sessions ends within a tick, shape (seats + 1,)
    policies: np.ndarray  # of POLICY
    bands: Floats  # level and amount, shape (policies, bands, 2)
    criteria: NDArray[np.int8]
    calendar: np.ndarray  # of ORDER, shape (evaluations,)
    settings: np.ndarray  # of SETTING, in the order of time
    quota: NDArray[np.int32]  # instances, shape (evaluations,)
    incidents: np.ndarray  # of INCIDENT
    hands: np.ndarray  # of HAND, in the order of time
    outside: NDArray[np.float32]  # shape (series, samples)

    @property
    def tick(self) -> float:
        return float(self.fixed["tick"][0])

    @property
    def ticks(self) -> int:
        return int(self.fixed["ticks"][0])

    @property
    def rate(self) -> Floats:
        """Arrivals per second in each tick."""
        return np.asarray(self.arrivals / self.tick)

    def of(self, name: str) -> Any:
        """One of the fixed numbers, as plain Python."""
        return self.fixed[name][0].item()

    def changed(self, **numbers: Any) -> "Setup":
        """The same setup with some of the fixed numbers replaced."""
        fixed = self.fixed.copy()
        for name, value in numbers.items():
            fixed[name] = value
        return self._replace(fixed=fixed.view(np.recarray))
