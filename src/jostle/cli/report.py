"""A rehearsal as text of 80 columns, and as one JSON object."""

import textwrap
from typing import Any

import numpy as np

from jostle.core.journal.event import events, say_time
from jostle.core.journal.sentence import group_line
from jostle.core.plan.metric import Metric
from jostle.core.plan.quantity import say_duration, say_money, say_number
from jostle.core.rehearsal.rehearsal import Rehearsal
from jostle.core.rehearsal.strip import Span, metric_series
from jostle.core.rehearsal.verdict import verdict

WIDTH = 80
JSON_BUCKETS = 1500


def text_report(rehearsal: Rehearsal) -> str:
    """The verdict, then every change of the count with its reason."""
    judged = verdict(rehearsal)
    figures, group = judged.figures, rehearsal.crew.group
    currency = figures.currency
    lines = [f"{rehearsal.group_name}: {group_line(rehearsal.crew)}"]
    span = f"{say_time(rehearsal.clock, 0)}, {say_duration(rehearsal.clock.seconds)}, {rehearsal.plan.time_zone}"
    lines += [f"{group.demand}, seed {rehearsal.seed}, from {span}", ""]
    p95 = "not answered" if figures.latency_p95_ms is None else f"{say_number(figures.latency_p95_ms)} ms"
    rows = [
        ("Cost", say_money(figures.cost, currency)),
        ("  with perfect foresight", _bound(figures.foresight_cost, currency)),
        ("  always at peak", _bound(figures.always_peak_cost, currency)),
        ("Short of capacity", f"{say_number(figures.short_minutes)} min"),
        ("95 % answered in", p95),
        ("Requests", f"{figures.requests_in:,.0f} in, {figures.requests_failed:,.0f} failed"),
        ("Count", f"{figures.min_count} to {figures.max_count}, {figures.changes} changes"),
    ]
    lines += [f"{name:<26}{value}" for name, value in rows]
    for promise in judged.promises:
        lines.append(f"{'kept  ' if promise.kept else 'BROKEN'} {promise.text}: {promise.measured}")
    lines += ["", "Changes of the count"]
    told = 0
    for event in events(rehearsal, frozenset({"count", "limit"})):
        at = say_time(rehearsal.clock, _seconds(rehearsal, event.time))
        lines += textwrap.wrap(f"{at}  {event.text}", WIDTH, initial_indent="  ", subsequent_indent=" " * 20)
        told += 1
    if not told:
        lines.append(f"  none: it stays at {group.first_count} throughout")
    return "\n".join(line for part in lines for line in (textwrap.wrap(part, WIDTH) if len(part) > WIDTH else [part]))


def json_report(rehearsal: Rehearsal) -> dict[str, Any]:
    """The documented object: figures, promises, events, series."""
    judged = verdict(rehearsal)
    ticks = rehearsal.clock.ticks
    span = Span.of(ticks, 0, ticks, JSON_BUCKETS)
    series = rehearsal.result.state.series
    rows = {
        "demand_per_second": rehearsal.demand_rate,
        "capacity_per_second": series["capacity"],
        "waiting_requests": series["waiting"],
        "failed_requests": series["failed"],
        "cpu_percent": 100 * metric_series(rehearsal, Metric.CPU),
        "latency_p95_ms": 1000 * metric_series(rehearsal, Metric.LATENCY_P95),
        "serving_instances": series["serving"],
        "desired_instances": series["desired"],
        "billed_instances": series["billed"],
    }
    cut = {}
    for name, values in rows.items():
        buckets = span.buckets(values)
        cut[name] = {"min": _plain(buckets.low), "max": _plain(buckets.high), "mean": _plain(buckets.mean)}
    times = [rehearsal.clock.at(float(epoch)).isoformat() for epoch in rehearsal.clock.epochs[span.edges]]
    return {
        "figures": judged.figures.model_dump(mode="json"),
        "promises": [promise.model_dump(mode="json") for promise in judged.promises],
        "events": [event.model_dump(mode="json") for event in events(rehearsal)],
        "series": {"time": times, **cut},
    }


def _bound(cost: Any, currency: str) -> str:
    return "no count keeps the promises" if cost is None else say_money(cost, currency)


def _seconds(rehearsal: Rehearsal, time: str) -> float:
    return rehearsal.clock.epoch_of(time) - rehearsal.clock.first


def _plain(values: np.ndarray) -> list[float | None]:
    return [None if np.isnan(value) else float(f"{value:.6g}") for value in values.tolist()]
