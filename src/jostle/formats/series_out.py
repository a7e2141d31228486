"""The series of a rehearsal as CSV: one row for each minute, or for each tick where that is longer."""

import csv
import io

import numpy as np

from jostle.core.rehearsal.rehearsal import Rehearsal
from jostle.core.rehearsal.strip import Span

MINUTE = 60.0


def write_series(rehearsal: Rehearsal) -> str:
    """Times are ISO 8601 in the plan's zone; rates and CPU are means over the row, the rest are the highest in it."""
    clock, series = rehearsal.clock, rehearsal.result.series
    rows = max(1, round(clock.seconds / max(MINUTE, clock.tick)))
    span = Span.of(clock.ticks, 0, clock.ticks, rows)
    means = {"demand_per_second": rehearsal.demand_rate, "capacity": series["capacity"], "cpu_percent": 100 * series["cpu"]}
    highs = {
        "waiting": series["waiting"],
        "failed": series["failed"],
        "latency_p95_ms": 1000 * series["latency"].astype(float),
        "age_of_oldest_s": series["age"],
        "serving": series["serving"],
        **({"serving_units": series["units"]} if rehearsal.result.setup.of("weighed") else {}),
        "desired": series["desired"],
        "billed": series["billed"],
        "stopped": series["stopped"],
    }
    columns = [span.buckets(np.asarray(values)).mean for values in means.values()]
    columns += [span.buckets(np.asarray(values)).high for values in highs.values()]
    text = io.StringIO(newline="")
    writer = csv.writer(text)
    writer.writerow(["time", *means, *highs])
    for edge, *values in zip(clock.epochs[span.edges].tolist(), *columns, strict=True):
        writer.writerow([clock.at(edge).isoformat(), *("" if np.isnan(value) else f"{value:.6g}" for value in values)])
    return text.getvalue()
