"""What can be measured about a group, like the dials on a wall, and the unit each dial is marked in."""

from collections.abc import Callable
from enum import StrEnum
from typing import Any, NamedTuple

from jostle.core.plan.quantity import (
    read_duration,
    read_number,
    read_rate,
    read_share,
    read_throughput,
    say_duration,
    say_number,
    say_rate,
    say_share,
    say_throughput,
)

WORKS = ("requests", "jobs", "sessions")


class _Dial(NamedTuple):
    label: str
    unit: str
    works: tuple[str, ...] = WORKS
    proportional: bool = False
    from_instances: bool = True
    falls: bool = False


class Metric(StrEnum):
    CPU = "cpu"
    MEMORY = "memory"
    REQUESTS_PER_INSTANCE = "requests_per_instance"
    LATENCY_P95 = "latency_p95"
    FAILED_SHARE = "failed_share"
    BACKLOG = "backlog"
    BACKLOG_PER_INSTANCE = "backlog_per_instance"
    AGE = "age_of_oldest"
    SESSIONS_PER_INSTANCE = "sessions_per_instance"
    FREE_SEATS = "free_seats"
    FREE_SEATS_SHARE = "free_seats_share"
    NETWORK_IN = "network_in"
    NETWORK_OUT = "network_out"
    OUTSIDE = "outside"

    @property
    def label(self) -> str:
        return _DIALS[self].label

    @property
    def unit(self) -> str:
        """`share`, `rate` (1/s), `duration` (s), `throughput` (MB/s) or `number`."""
        return _DIALS[self].unit

    @property
    def works(self) -> tuple[str, ...]:
        """The kinds of work that have it."""
        return _DIALS[self].works

    @property
    def proportional(self) -> bool:
        """Whether it halves when twice as many instances share the same work; only such a metric can be held."""
        return _DIALS[self].proportional

    @property
    def from_instances(self) -> bool:
        """Whether it has no value when no instance serves."""
        return _DIALS[self].from_instances

    @property
    def falls(self) -> bool:
        """Whether it falls as the load grows."""
        return _DIALS[self].falls

    def read(self, value: Any) -> float:
        """A level of this metric in its base unit, from text with a unit or a bare number."""
        return _READERS[self.unit](value)

    def say(self, value: float) -> str:
        return _SAYERS[self.unit](value)


_SEATED = ("sessions",)
_QUEUED = ("requests", "jobs")
_DIALS = {
    Metric.CPU: _Dial("CPU", "share", proportional=True),
    Metric.MEMORY: _Dial("memory", "share"),
    Metric.REQUESTS_PER_INSTANCE: _Dial("requests per instance", "rate", ("requests",), proportional=True),
    Metric.LATENCY_P95: _Dial("latency p95", "duration", ("requests",)),
    Metric.FAILED_SHARE: _Dial("failed share", "share", ("requests", "sessions"), from_instances=False),
    Metric.BACKLOG: _Dial("backlog", "number", _QUEUED, from_instances=False),
    Metric.BACKLOG_PER_INSTANCE: _Dial("backlog per instance", "number", _QUEUED, proportional=True),
    Metric.AGE: _Dial("age of the oldest", "duration", _QUEUED, from_instances=False),
    Metric.SESSIONS_PER_INSTANCE: _Dial("sessions per instance", "number", _SEATED, proportional=True),
    Metric.FREE_SEATS: _Dial("free seats", "number", _SEATED, falls=True),
    Metric.FREE_SEATS_SHARE: _Dial("share of seats free", "share", _SEATED, falls=True),
    Metric.NETWORK_IN: _Dial("network in", "throughput", proportional=True),
    Metric.NETWORK_OUT: _Dial("network out", "throughput", proportional=True),
    Metric.OUTSIDE: _Dial("outside metric", "number", from_instances=False),
}


def metrics_of_work(kind: str) -> list[Metric]:
    """The metrics that a kind of work has, but for outside series."""
    return [metric for metric in Metric if kind in metric.works and metric != Metric.OUTSIDE]


_READERS: dict[str, Callable[[Any], float]] = {
    "share": read_share,
    "rate": read_rate,
    "duration": read_duration,
    "throughput": read_throughput,
    "number": read_number,
}
_SAYERS: dict[str, Callable[[float], str]] = {
    "share": say_share,
    "rate": say_rate,
    "duration": say_duration,
    "throughput": say_throughput,
    "number": say_number,
}
