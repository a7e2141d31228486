"""Series cut to what a screen can show: buckets with minimum, maximum and mean, so that no spike is lost."""

from dataclasses import dataclass
from typing import assert_never

import numpy as np
from numpy.typing import NDArray

from jostle.core.built.figure import cut
from jostle.core.decide.code import DIALS
from jostle.core.decide.rules import metric_row
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
        return Buckets(*cut(np.asarray(series[self.begin : self.end]), self.edges - self.begin))


def wanted(rehearsal: Rehearsal) -> Floats:
    """What each tick asks for in the unit of the capacity: arrivals per second, or sessions that want a seat."""
    if not rehearsal.crew.group.work.held:
        return rehearsal.demand_rate
    series = rehearsal.result.series
    return np.asarray(series["in_use"].astype(np.float64) + series["failed"])


def zone_series(rehearsal: Rehearsal, metric: Metric, zone: str) -> Floats:
    """A metric of one zone as the meters read it, at every tick; nan where the zone has none that serves.

    Of a rehearsal with readings by zone, for a metric that is read so.
    """
    result = rehearsal.result
    samples = result.state.sight.samples[1 + rehearsal.crew.launch.zones.index(zone), metric_row(metric)]
    return _held(samples, int(result.setup.of("period_ticks")), rehearsal.clock.ticks)


def metric_series(rehearsal: Rehearsal, metric: Metric, outside: str | None = None) -> Floats:
    """A metric at every tick, in its base unit, such that a period of it gives the sample that the policies see; nan where it
    has no value. An outside one is named.

    A sample of what instances do is the mean over their ticks, of a backlog or an age what stands at the period's end, of a
    latency the percentile over the period's answers. What is only known for a period holds throughout it.
    """
    setup, series, tick = rehearsal.result.setup, rehearsal.result.series, rehearsal.clock.tick

    def serving() -> Floats:
        return np.where(series["serving"] > 0, series["serving"], np.nan).astype(np.float64)

    def seated() -> Floats:
        return np.asarray(series["seated"], dtype=np.float64)

    match metric:
        case Metric.CPU:
            return np.asarray(series["cpu"], dtype=np.float64)
        case Metric.LATENCY_P95:
            return np.asarray(series["latency"], dtype=np.float64)
        case Metric.REQUESTS_PER_INSTANCE:
            return np.asarray(series["served"] / (serving() * tick))
        case Metric.FAILED_SHARE:
            asked = series["served"].astype(np.float64) + series["failed"]
            return np.divide(series["failed"], asked, out=np.zeros(len(asked)), where=asked > 0)
        case Metric.BACKLOG:
            return np.asarray(series["waiting"], dtype=np.float64)
        case Metric.AGE:
            return np.asarray(series["age"], dtype=np.float64)
        case Metric.SESSIONS_PER_INSTANCE:
            return np.asarray(seated() / serving())
        case Metric.FREE_GIB:
            return np.asarray(series["capacity"] - seated()) + 0.0 * serving()
        case Metric.FREE_MEMORY:
            return np.asarray(1.0 - seated() / np.where(series["capacity"] > 0, series["capacity"], np.nan))
        case Metric.WITHOUT_PLACE:
            return np.asarray(series["waiting"], dtype=np.float64)
        case Metric.FREE_SEATS:
            return np.asarray(setup.of("capacity") * serving() - seated())
        case Metric.FREE_SEATS_SHARE:
            return np.asarray(1.0 - seated() / (setup.of("capacity") * serving()))
        case (
            Metric.MEMORY
            | Metric.BACKLOG_PER_INSTANCE
            | Metric.ARRIVALS
            | Metric.NETWORK_IN
            | Metric.NETWORK_OUT
            | Metric.DISK
            | Metric.FREE_CPU
            | Metric.FREE_VCPUS
            | Metric.LARGEST_PLACE
            | Metric.OUTSIDE
        ):
            row = metric_row(metric) if outside is None else DIALS + [name for name, _ in rehearsal.crew.outside].index(outside)
            return _held(rehearsal.result.state.sight.samples[0, row], int(setup.of("period_ticks")), rehearsal.clock.ticks)
    assert_never(metric)


def _held(samples: NDArray[np.float32], step: int, ticks: int) -> Floats:
    """Readings of a meter at every tick: each stands for the period that it closes."""
    held = np.repeat(samples.astype(np.float64), step)[:ticks]
    return np.concatenate([held, np.full(ticks - len(held), np.nan)])
