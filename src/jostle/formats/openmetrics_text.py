"""A demand from OpenMetrics text with times: the samples of one series, a counter as its rate."""

import math
from collections.abc import Iterable
from datetime import datetime
from zoneinfo import ZoneInfo

import numpy as np
from prometheus_client import Metric
from prometheus_client.openmetrics.parser import text_fd_to_metric_families as open_families
from prometheus_client.parser import text_string_to_metric_families as plain_families

from jostle.core.plan.word import say_count
from jostle.formats.series_csv import Series, known_ways, on_grid
from jostle.formats.series_error import Fault, SeriesError

COUNTING = ("_total", "_count")


def is_openmetrics(content: bytes) -> bool:
    """Whether a file begins as OpenMetrics, or the older text format, does."""
    return content.lstrip().startswith((b"# TYPE", b"# HELP", b"# UNIT"))


def read_openmetrics(
    content: bytes, zone: ZoneInfo, unit: str | None = None, gaps: str = "line", name: str | None = None
) -> Series:
    """Read one series: the named one, or the one with the most samples. A gauge is in requests per second unless told.

    Raises SeriesError where the text cannot be read or has no series with two times.
    """
    known_ways(unit, gaps)
    found = {key: points for key, points in _samples(content).items() if len(points) > 1}
    if not found:
        raise SeriesError([Fault(None, None, "", "holds no series with samples at two times; export it with timestamps")])
    if name is not None and name not in found:
        raise SeriesError([Fault(None, "series", name, f"is not in the file; there is: {', '.join(found)}")])
    chosen = name or max(found, key=lambda key: len(found[key]))
    points = found[chosen]
    epochs = np.array(sorted(points))
    values = np.array([points[epoch] for epoch in epochs])
    notes = []
    if chosen.partition("{")[0].endswith(COUNTING):
        grown = np.diff(values)
        resets = int(np.sum(grown < 0))
        if resets:
            notes.append(f"the counter began anew {say_count(resets, 'time')}; counted from zero there")
        values = np.where(grown < 0, values[1:], grown) / np.diff(epochs)
        epochs = epochs[:-1]
        unit = "requests_per_second"
    if len(epochs) < 2:
        raise SeriesError([Fault(None, "series", chosen, "a counter needs samples at three times")])
    if np.any(values < 0):
        raise SeriesError([Fault(None, "series", chosen, "demand cannot be negative")])
    read = unit or "requests_per_second"
    samples, more = on_grid(epochs, values, read, gaps, zone)
    return Series(samples, read, len(points), notes + more, list(found), None, chosen)  # type: ignore[arg-type]


def _samples(content: bytes) -> dict[str, dict[float, float]]:
    """Value by time (s since 1970) of each series, named as in the text: `http_requests_total{code="200"}`."""
    try:
        text = content.decode("utf-8-sig").strip() + "\n"
    except UnicodeDecodeError:
        raise SeriesError([Fault(None, None, "", "is not UTF-8 text; save the file as UTF-8")]) from None
    found: dict[str, dict[float, float]] = {}
    try:
        families = list(_families(text))
    except (ValueError, KeyError, IndexError, TypeError) as error:
        raise SeriesError([Fault(None, None, "", f"is not OpenMetrics text: {error}")]) from None
    for family in families:
        for sample in family.samples:
            if sample.timestamp is None or not math.isfinite(sample.value):
                continue
            labels = ",".join(f'{key}="{value}"' for key, value in sorted(sample.labels.items()))
            key = f"{sample.name}{{{labels}}}" if labels else sample.name
            found.setdefault(key, {})[_epoch(sample.timestamp)] = float(sample.value)
    return found


def _families(text: str) -> Iterable[Metric]:
    if text.endswith("# EOF\n"):
        return open_families(text.splitlines(keepends=True))  # type: ignore[no-untyped-call, no-any-return]
    return plain_families(text)


def _epoch(timestamp: object) -> float:
    if isinstance(timestamp, datetime):
        return timestamp.timestamp()
    return round(float(timestamp), 3)  # type: ignore[arg-type]
