"""The strips of a rehearsal: what the screen draws, already cut to its width and in the units it shows."""

from collections.abc import Iterable

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel

from jostle.core.engine import code
from jostle.core.plan.quantity import say_money, say_number
from jostle.core.rehearsal.rehearsal import Rehearsal
from jostle.core.rehearsal.strip import Span, lanes

Numbers = list[float | None]


class Between(BaseModel):
    """A stretch of time, ms since 1970."""

    begin: float
    end: float


class DemandStrip(BaseModel):
    """Requests per second; shortfall is the demand beyond the capacity."""

    demand: Numbers
    demand_high: Numbers
    capacity: Numbers
    shortfall: Numbers
    summary: str


class CountStrip(BaseModel):
    serving: Numbers
    desired: Numbers
    minimum: int
    maximum: int
    waits: list[Between]
    summary: str


class Lane(BaseModel):
    """An instance's life, ms since 1970; `row` is the line it is drawn on."""

    instance: int
    row: int
    requested: float
    booted: float
    serves: float
    drains: float | None
    gone: float | None


class SpendBar(BaseModel):
    begin: float
    end: float
    per_hour: float


class SpendStrip(BaseModel):
    bars: list[SpendBar]
    summed: Numbers
    total: str
    summary: str


def numbers(values: NDArray[np.float64]) -> Numbers:
    """Five significant digits are more than a screen shows; nan becomes null."""
    with np.errstate(divide="ignore", invalid="ignore"):
        digits = np.where(values == 0, 0, 4 - np.floor(np.log10(np.abs(values))))
    power = 10.0 ** np.nan_to_num(np.clip(digits, -12, 12))
    return [None if value != value else value for value in (np.round(values * power) / power).tolist()]


def at_ms(rehearsal: Rehearsal, seconds: float) -> float:
    return (rehearsal.clock.first + seconds) * 1000


def demand_strip(rehearsal: Rehearsal, span: Span) -> DemandStrip:
    series = rehearsal.result.state.series
    rate, capacity = span.buckets(rehearsal.demand_rate), span.buckets(series["capacity"])
    short = span.buckets(np.maximum(rehearsal.demand_rate - series["capacity"], 0.0))
    peak, lowest = float(np.nanmax(rate.high)), float(np.nanmin(rate.low))
    minutes = float((series["waiting"][span.begin : span.end] > 0).sum()) * rehearsal.clock.tick / 60
    return DemandStrip(
        demand=numbers(rate.mean),
        demand_high=numbers(rate.high),
        capacity=numbers(capacity.mean),
        shortfall=numbers(short.high),
        summary=f"Demand between {say_number(lowest)} and {say_number(peak)} requests/s; capacity up to "
        f"{say_number(float(np.nanmax(capacity.high)))}; short for {say_number(minutes)} min.",
    )


def count_strip(rehearsal: Rehearsal, span: Span) -> CountStrip:
    series, group = rehearsal.result.state.series, rehearsal.crew.group
    serving, desired = span.buckets(series["serving"]), span.buckets(series["desired"])
    low, high = int(desired.low.min()), int(desired.high.max())
    return CountStrip(
        serving=numbers(serving.mean),
        desired=numbers(desired.mean),
        minimum=group.minimum,
        maximum=group.maximum,
        waits=_waits(rehearsal, span),
        summary=f"Desired count between {low} and {high}; "
        f"serving between {int(serving.low.min())} and {int(serving.high.max())}.",
    )


def _waits(rehearsal: Rehearsal, span: Span) -> list[Between]:
    """Where a policy, or the group, would act but waits; stretches closer than a pixel are joined."""
    rows, tick = rehearsal.result.decisions, rehearsal.clock.tick
    views = rehearsal.result.state.views[: len(rows)]
    waiting = (views["state"] == code.WAITING).any(axis=1) | (rows["outcome"] == code.GROUP_WAITS)
    begin, end = span.begin * tick, span.end * tick
    edges = np.flatnonzero(np.diff(np.concatenate([[0], waiting.astype(np.int8), [0]])))
    length = rehearsal.result.setup.evaluate_ticks * tick
    close = (end - begin) / 1000
    joined: list[list[float]] = []
    for first, after in zip(edges[::2], edges[1::2], strict=True):
        low, high = float(rows["time"][first]), float(rows["time"][after - 1]) + length
        if high <= begin or low >= end:
            continue
        if joined and low - joined[-1][1] < close:
            joined[-1][1] = high
        else:
            joined.append([low, high])
    return [Between(begin=at_ms(rehearsal, max(low, begin)), end=at_ms(rehearsal, min(high, end))) for low, high in joined]


def lane_strip(rehearsal: Rehearsal, span: Span) -> Iterable[Lane]:
    """Instances alive in the span, each on the first line that is free when it is requested."""
    rows = rehearsal.result.instances
    begin, end = span.begin * rehearsal.clock.tick, span.end * rehearsal.clock.tick
    lines = lanes(rows["requested"], rows["gone"])
    there = np.flatnonzero((rows["requested"] < end) & ~(rows["gone"] <= begin))
    times = [
        [None if at != at else at for at in ((rehearsal.clock.first + rows[field][there]) * 1000).tolist()]
        for field in ("requested", "booted", "serves", "drains", "gone")
    ]
    for i, requested, booted, serves, drains, gone in zip(there.tolist(), *times, strict=True):
        yield Lane.model_construct(
            instance=i + 1, row=int(lines[i]), requested=requested, booted=booted, serves=serves, drains=drains, gone=gone
        )


def spend_strip(rehearsal: Rehearsal, span: Span) -> SpendStrip:
    clock, series = rehearsal.clock, rehearsal.result.state.series
    price = rehearsal.result.setup.price
    billed = series["billed"].astype(np.float64)
    summed = np.cumsum(billed) * price * clock.tick
    hours = next((h for h in (1, 2, 3, 6, 12, 24) if (span.end - span.begin) * clock.tick / 3600 / h <= 60), 24)
    number = ((clock.wall[span.begin : span.end]) // (hours * 3600)).astype(np.int64)
    starts = np.flatnonzero(np.diff(np.concatenate([[number[0] - 1], number])))
    ends = np.append(starts[1:], len(number))
    totals = np.add.reduceat(billed[span.begin : span.end], starts)
    bars = [
        SpendBar.model_construct(
            begin=at_ms(rehearsal, (span.begin + float(a)) * clock.tick),
            end=at_ms(rehearsal, (span.begin + float(b)) * clock.tick),
            per_hour=round(float(total) / float(b - a) * price * 3600, 4),
        )
        for a, b, total in zip(starts, ends, totals, strict=True)
    ]
    here = float(summed[span.end - 1] - (summed[span.begin - 1] if span.begin else 0.0))
    most = max(bar.per_hour for bar in bars)
    currency = rehearsal.plan.currency
    return SpendStrip(
        bars=bars,
        summed=numbers(span.buckets(summed).high),
        total=say_money(round(here, 2), currency),
        summary=f"{say_money(round(here, 2), currency)} in this span, at most {say_money(round(most, 2), currency)} an hour.",
    )
