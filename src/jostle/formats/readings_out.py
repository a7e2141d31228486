"""Meter readings as OpenMetrics text, for any monitoring to scrape."""

from collections.abc import Iterator, Sequence

from prometheus_client import CollectorRegistry
from prometheus_client.core import GaugeMetricFamily
from prometheus_client.openmetrics.exposition import generate_latest
from prometheus_client.registry import Collector


class _Readings(Collector):
    def __init__(self, families: list[GaugeMetricFamily]) -> None:
        self._families = families

    def collect(self) -> Iterator[GaugeMetricFamily]:
        yield from self._families


def write_readings(
    group: str,
    at: Sequence[float],
    values: Sequence[Sequence[Sequence[float | None]]],
    metrics: Sequence[str],
    zones: Sequence[str],
) -> bytes:
    """The last reading of each metric, of the group and of the zones that are read, with when it was measured (s since 1970).

    `values[where][metric]` has one for each time of `at`; what was not read is left out.
    """
    families = []
    for number, metric in enumerate(metrics):
        family = GaugeMetricFamily(f"jostle_{metric}", f"{metric.replace('_', ' ')} of a group", labels=["group", "zone"])
        for where, rows in enumerate(values):
            value = rows[number][-1] if rows[number] else None
            if value is not None:
                family.add_metric([group, zones[where - 1] if where else ""], value, timestamp=at[-1])
        families.append(family)
    registry = CollectorRegistry()
    registry.register(_Readings(families))
    return bytes(generate_latest(registry))  # type: ignore[no-untyped-call]
