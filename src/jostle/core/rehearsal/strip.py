"""Series cut to what a screen can show: buckets with minimum, maximum and mean, so that no spike is lost."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from jostle.core.plan.metric import Metric
from jostle.core.rehearsal.rehearsal import Rehearsal

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Buckets:
    """One series in buckets; nan where a bucket has no value."""

    low: Floats
    high: Floats
    mean: Floats


@dataclass(frozen=True)
class Span:
    """Ticks `begin` to before `end` in buckets whose first ticks are `edges`."""

    begin: int
    end: int
    edges: NDArray[np.int64]

    @classmethod
    def of(cls, ticks: int, begin: int, end: int, buckets: int) -> "Span":
        """The span clipped to the rehearsal, never empty, in at most so many buckets of whole ticks."""
        begin = min(max(0, begin), ticks - 1)
        end = min(max(begin + 1, end), ticks)
        number = min(max(1, buckets), end - begin)
        return cls(begin, end, begin + np.arange(number, dtype=np.int64) * (end - begin) // number)

    def buckets(self, series: NDArray[np.floating] | NDArray[np.integer]) -> Buckets:
        values = np.asarray(series[self.begin : self.end], dtype=np.float64)
        starts = self.edges - self.begin
        there = ~np.isnan(values)
        number = np.add.reduceat(there.astype(np.float64), starts)
        total = np.add.reduceat(np.where(there, values, 0.0), starts)
        mean = np.divide(total, number, out=np.full(len(starts), np.nan), where=number > 0)
        return Buckets(np.fmin.reduceat(values, starts), np.fmax.reduceat(values, starts), mean)


def metric_series(rehearsal: Rehearsal, metric: Metric) -> Floats:
    """A metric at every tick, in its base unit; nan where it has no value."""
    series, tick = rehearsal.result.state.series, rehearsal.clock.tick
    serving = np.where(series["serving"] > 0, series["serving"], np.nan).astype(np.float64)
    asked = series["served"].astype(np.float64) + series["failed"]
    match metric:
        case Metric.CPU:
            return np.asarray(series["cpu"], dtype=np.float64)
        case Metric.LATENCY_P95:
            return np.asarray(series["latency"], dtype=np.float64)
        case Metric.REQUESTS_PER_INSTANCE:
            return np.asarray(series["served"] / (serving * tick))
        case Metric.FAILED_SHARE:
            return np.divide(series["failed"], asked, out=np.zeros(len(asked)), where=asked > 0)
        case Metric.BACKLOG:
            return np.asarray(series["waiting"], dtype=np.float64)
        case Metric.BACKLOG_PER_INSTANCE:
            return np.asarray(series["waiting"] / serving)
