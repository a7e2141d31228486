"""What can be measured about a group, like the dials on a wall, and the unit each dial is marked in."""

from collections.abc import Callable
from enum import StrEnum
from typing import Any

from jostle.core.plan.quantity import (
    read_duration,
    read_rate,
    read_share,
    say_duration,
    say_number,
    say_rate,
    say_share,
    wrong,
)


class Metric(StrEnum):
    CPU = "cpu"
    REQUESTS_PER_INSTANCE = "requests_per_instance"
    LATENCY_P95 = "latency_p95"
    FAILED_SHARE = "failed_share"
    BACKLOG = "backlog"
    BACKLOG_PER_INSTANCE = "backlog_per_instance"

    @property
    def label(self) -> str:
        return _LABELS[self]

    @property
    def unit(self) -> str:
        """`share`, `rate` (1/s), `duration` (s) or `number`."""
        return _UNITS[self]

    @property
    def proportional(self) -> bool:
        """Whether it halves when twice as many instances share the same work; only such a metric can be held."""
        return self in _PROPORTIONAL

    @property
    def from_instances(self) -> bool:
        """Whether it has no value when no instance serves."""
        return self not in (Metric.BACKLOG, Metric.FAILED_SHARE)

    def read(self, value: Any) -> float:
        """A level of this metric in its base unit, from text with a unit or a bare number."""
        return _READERS[self.unit](value)

    def say(self, value: float) -> str:
        return _SAYERS[self.unit](value)


_LABELS = {
    Metric.CPU: "CPU",
    Metric.REQUESTS_PER_INSTANCE: "requests per instance",
    Metric.LATENCY_P95: "latency p95",
    Metric.FAILED_SHARE: "failed share",
    Metric.BACKLOG: "backlog",
    Metric.BACKLOG_PER_INSTANCE: "backlog per instance",
}
_UNITS = {
    Metric.CPU: "share",
    Metric.REQUESTS_PER_INSTANCE: "rate",
    Metric.LATENCY_P95: "duration",
    Metric.FAILED_SHARE: "share",
    Metric.BACKLOG: "number",
    Metric.BACKLOG_PER_INSTANCE: "number",
}
_PROPORTIONAL = {Metric.CPU, Metric.REQUESTS_PER_INSTANCE, Metric.BACKLOG_PER_INSTANCE}


def _read_number(value: Any) -> float:
    if isinstance(value, bool) or not isinstance(value, int | float):
        raise wrong("write a plain number, such as 200")
    if not 0 <= value < 1e12:
        raise wrong("write a number of zero or more, such as 200")
    return float(value)


_READERS: dict[str, Callable[[Any], float]] = {
    "share": read_share,
    "rate": read_rate,
    "duration": read_duration,
    "number": _read_number,
}
_SAYERS: dict[str, Callable[[float], str]] = {
    "share": say_share,
    "rate": say_rate,
    "duration": say_duration,
    "number": say_number,
}
