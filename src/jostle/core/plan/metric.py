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


class Range(NamedTuple):
    """How levels of a metric are shown: in a unit, so many a base unit, up to a usual top, in steps."""

    unit: str
    scale: float
    top: float
    step: float


class _Dial(NamedTuple):
    label: str
    unit: str
    range: Range
    proportional: bool = False
    from_instances: bool = True
    falls: bool = False
    by_zone: bool = False


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
    FREE_CPU = "free_cpu"
    FREE_VCPUS = "free_vcpus"
    FREE_MEMORY = "free_memory"
    FREE_GIB = "free_gib"
    LARGEST_PLACE = "largest_place"
    WITHOUT_PLACE = "without_place"
    NETWORK_IN = "network_in"
    NETWORK_OUT = "network_out"
    DISK = "disk_throughput"
    ARRIVALS = "arrivals"
    OUTSIDE = "outside"

    @property
    def label(self) -> str:
        return _DIALS[self].label

    @property
    def unit(self) -> str:
        """`share`, `rate` (1/s), `duration` (s), `throughput` (MB/s) or `number`."""
        return _DIALS[self].unit

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

    @property
    def by_zone(self) -> bool:
        """Whether the meters read it in each zone too."""
        return _DIALS[self].by_zone

    @property
    def range(self) -> Range:
        return _DIALS[self].range

    @property
    def plausible(self) -> float:
        """A threshold to begin with, in its base unit: somewhat above the middle of its range."""
        return 0.6 * self.range.top / self.range.scale

    def read(self, value: Any) -> float:
        """A level of this metric in its base unit, from text with a unit or a bare number."""
        return _READERS[self.unit](value)

    def say(self, value: float) -> str:
        return _SAYERS[self.unit](value)


_PERCENT, _FEW_PERCENT = Range("%", 100.0, 100.0, 1.0), Range("%", 100.0, 20.0, 0.1)
_RATE, _FLOW = Range("/s", 1.0, 200.0, 1.0), Range("MB/s", 1.0, 200.0, 1.0)
_LATENCY, _MINUTES = Range("ms", 1000.0, 3000.0, 10.0), Range("min", 1 / 60, 60.0, 0.5)


def _of(top: float, step: float) -> Range:
    """The range of a number of things."""
    return Range("", 1.0, top, step)


_DIALS = {
    Metric.CPU: _Dial("CPU", "share", _PERCENT, proportional=True, by_zone=True),
    Metric.MEMORY: _Dial("memory", "share", _PERCENT, by_zone=True),
    Metric.REQUESTS_PER_INSTANCE: _Dial("requests per instance", "rate", _RATE, proportional=True, by_zone=True),
    Metric.LATENCY_P95: _Dial("latency p95", "duration", _LATENCY),
    Metric.FAILED_SHARE: _Dial("failed share", "share", _FEW_PERCENT, from_instances=False),
    Metric.BACKLOG: _Dial("backlog", "number", _of(5000.0, 10.0), from_instances=False),
    Metric.BACKLOG_PER_INSTANCE: _Dial("backlog per instance", "number", _of(500.0, 1.0), proportional=True),
    Metric.AGE: _Dial("age of the oldest", "duration", _MINUTES, from_instances=False),
    Metric.SESSIONS_PER_INSTANCE: _Dial("sessions per instance", "number", _of(500.0, 5.0), proportional=True, by_zone=True),
    Metric.FREE_SEATS: _Dial("free seats", "number", _of(1000.0, 10.0), falls=True),
    Metric.FREE_SEATS_SHARE: _Dial("share of seats free", "share", _PERCENT, falls=True),
    Metric.FREE_CPU: _Dial("share of CPU free for copies", "share", _PERCENT, falls=True),
    Metric.FREE_VCPUS: _Dial("vCPUs free for copies", "number", _of(64.0, 0.5), falls=True),
    Metric.FREE_MEMORY: _Dial("share of memory free for copies", "share", _PERCENT, falls=True),
    Metric.FREE_GIB: _Dial("GiB free for copies", "number", _of(256.0, 0.5), falls=True),
    Metric.LARGEST_PLACE: _Dial("largest place free, GiB", "number", _of(32.0, 0.25), falls=True),
    Metric.WITHOUT_PLACE: _Dial("copies without a place", "number", _of(20.0, 1.0), from_instances=False),
    Metric.NETWORK_IN: _Dial("network in", "throughput", _FLOW, proportional=True, by_zone=True),
    Metric.NETWORK_OUT: _Dial("network out", "throughput", _FLOW, proportional=True, by_zone=True),
    Metric.DISK: _Dial("disk throughput", "throughput", _FLOW, proportional=True, by_zone=True),
    Metric.ARRIVALS: _Dial("arrivals", "rate", _RATE, from_instances=False),
    Metric.OUTSIDE: _Dial("outside metric", "number", _of(100.0, 1.0), from_instances=False),
}


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
