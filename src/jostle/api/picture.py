"""A rehearsal as strips: what the screen draws, already cut to its width and in the units it shows."""

from collections.abc import Iterable
from datetime import datetime, timedelta
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel

from jostle.api.editor import metric_range
from jostle.core.engine import code
from jostle.core.engine.compile import METRIC_CODES
from jostle.core.journal.sentence import policy_tone
from jostle.core.plan.metric import Metric
from jostle.core.plan.policy import HoldPolicy
from jostle.core.plan.quantity import say_money, say_number, say_share
from jostle.core.rehearsal.rehearsal import Rehearsal
from jostle.core.rehearsal.strip import Span, lanes, metric_series

Numbers = list[float | None]
DISTRIBUTION_BINS = 40
MINIMAP_BUCKETS = 240


class AxisMark(BaseModel):
    at: float
    label: str
    day: bool


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


class Threshold(BaseModel):
    """A level drawn on a metric's strip that can be dragged. Values are in the base unit, `shown` in the strip's."""

    path: str
    policy: str
    tone: str
    text: str
    side: str
    value: float
    shown: float
    step: float


class MetricStrip(BaseModel):
    metric: Metric
    label: str
    unit: str
    scale: float
    top: float
    low: Numbers
    high: Numbers
    mean: Numbers
    thresholds: list[Threshold]
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


class Distribution(BaseModel):
    """How much of the time a policy's metric spent where, in shown units, and past its threshold."""

    path: str
    top: float
    shares: list[float]
    past: float
    text: str


class Picture(BaseModel):
    """All strips over one span. Times are ms since 1970; `times` are the beginnings of the buckets."""

    begin: float
    end: float
    whole: Between
    times: list[float]
    axis: list[AxisMark]
    demand: DemandStrip
    metrics: list[MetricStrip]
    count: CountStrip
    lanes: list[Lane]
    spend: SpendStrip
    minimap: Numbers
    distributions: list[Distribution]


def picture(rehearsal: Rehearsal, begin: float | None, end: float | None, buckets: int) -> Picture:
    """The strips from `begin` to `end`, ms since 1970 (the whole span if left out), in at most so many buckets."""
    clock, ticks = rehearsal.clock, rehearsal.clock.ticks
    first = int(np.floor(((begin or 0) / 1000 - clock.first) / clock.tick)) if begin is not None else 0
    last = int(np.ceil(((end or 0) / 1000 - clock.first) / clock.tick)) if end is not None else ticks
    span = Span.of(ticks, first, last, buckets)
    whole = Span.of(ticks, 0, ticks, MINIMAP_BUCKETS)
    return Picture(
        begin=_ms(rehearsal, span.begin * clock.tick),
        end=_ms(rehearsal, span.end * clock.tick),
        whole=Between(begin=_ms(rehearsal, 0), end=_ms(rehearsal, clock.seconds)),
        times=[_ms(rehearsal, float(k) * clock.tick) for k in span.edges],
        axis=_axis(rehearsal, span),
        demand=_demand(rehearsal, span),
        metrics=[_metric(rehearsal, span, metric) for metric in _metrics(rehearsal)],
        count=_count(rehearsal, span),
        lanes=list(_lanes(rehearsal, span)),
        spend=_spend(rehearsal, span),
        minimap=numbers(whole.buckets(rehearsal.demand_rate).high),
        distributions=_distributions(rehearsal),
    )


def numbers(values: NDArray[np.float64]) -> Numbers:
    """Five significant digits are more than a screen shows; nan becomes null."""
    with np.errstate(divide="ignore", invalid="ignore"):
        digits = np.where(values == 0, 0, 4 - np.floor(np.log10(np.abs(values))))
    power = 10.0 ** np.nan_to_num(np.clip(digits, -12, 12))
    return [None if value != value else value for value in (np.round(values * power) / power).tolist()]


def _ms(rehearsal: Rehearsal, seconds: float) -> float:
    return (rehearsal.clock.first + seconds) * 1000


def _axis(rehearsal: Rehearsal, span: Span) -> list[AxisMark]:
    """Marks at round hours of the wall clock, some eight to sixteen of them."""
    clock = rehearsal.clock
    begin, end = clock.first + span.begin * clock.tick, clock.first + span.end * clock.tick
    minutes = next((m for m in (5, 15, 30, 60, 180, 360, 720) if (end - begin) / 60 / m <= 15), 1440)
    if (end - begin) / 86400 > 15:
        minutes = 1440 * int(np.ceil((end - begin) / 86400 / 12))
    midnight = clock.at(begin).replace(hour=0, minute=0, second=0, microsecond=0, tzinfo=None)
    marks: list[AxisMark] = []
    for step in range(int((end - begin + 2 * 86400) / 60 / minutes) + 1):
        wall: datetime = midnight + timedelta(minutes=step * minutes)
        at = wall.replace(tzinfo=clock.zone).timestamp()
        if begin <= at < end and (not marks or marks[-1].at < at * 1000):
            day = wall.hour == 0 and wall.minute == 0
            marks.append(
                AxisMark(
                    at=at * 1000,
                    label=f"{wall:%a} {wall.day} {wall:%b}" if day else f"{wall:%H:%M}" if minutes < 720 else "",
                    day=day,
                )
            )
    if marks and not any(mark.day for mark in marks):
        first = clock.at(marks[0].at / 1000)
        marks[0] = AxisMark(at=marks[0].at, label=f"{first:%a} {first.day} {first:%b %H:%M}", day=True)
        marks = [marks[0], *(mark for mark in marks[1:] if mark.at - marks[0].at > (end - begin) * 1000 / 8)]
    return marks


def _demand(rehearsal: Rehearsal, span: Span) -> DemandStrip:
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


def _metrics(rehearsal: Rehearsal) -> list[Metric]:
    policies = rehearsal.crew.group.policies
    return list(dict.fromkeys(policy.metric for policy in policies)) or [Metric.CPU]


def _metric(rehearsal: Rehearsal, span: Span, metric: Metric) -> MetricStrip:
    unit, scale, top, step = metric_range(metric)
    cut = span.buckets(metric_series(rehearsal, metric) * scale)
    thresholds = []
    for policy in rehearsal.crew.group.policies:
        if policy.metric != metric:
            continue
        level = policy.level if isinstance(policy, HoldPolicy) else policy.threshold
        if isinstance(policy, HoldPolicy):
            text = f"hold at {metric.say(level)}"
        else:
            of = " %" if policy.of == "percent" else ""
            verb = "set to" if policy.action == "set" else policy.action
            text = f"{verb} {policy.amount}{of} {policy.side} {metric.say(level)}"
        thresholds.append(
            Threshold(
                path=f"policies.{policy.name}.{'level' if isinstance(policy, HoldPolicy) else 'threshold'}",
                policy=policy.name,
                tone="paused" if policy.paused else policy_tone(policy),
                text=text,
                side="at" if isinstance(policy, HoldPolicy) else policy.side,
                value=level,
                shown=level * scale,
                step=step / scale,
            )
        )
    there = cut.high[~np.isnan(cut.high)]
    highest = float(there.max()) if len(there) else 0.0
    if unit != "%" or metric == Metric.FAILED_SHARE:
        top = max([1.15 * highest, *(1.3 * t.shown for t in thresholds), 5 * step])
    summary = (
        f"{metric.label} between {metric.say(float(np.nanmin(cut.low)) / scale)} and {metric.say(highest / scale)}."
        if len(there)
        else f"{metric.label} has no data here."
    )
    return MetricStrip(
        metric=metric,
        label=metric.label,
        unit=unit,
        scale=scale,
        top=top,
        low=numbers(cut.low),
        high=numbers(cut.high),
        mean=numbers(cut.mean),
        thresholds=thresholds,
        summary=summary,
    )


def _count(rehearsal: Rehearsal, span: Span) -> CountStrip:
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
    return [Between(begin=_ms(rehearsal, max(low, begin)), end=_ms(rehearsal, min(high, end))) for low, high in joined]


def _lanes(rehearsal: Rehearsal, span: Span) -> Iterable[Lane]:
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


def _spend(rehearsal: Rehearsal, span: Span) -> SpendStrip:
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
            begin=_ms(rehearsal, (span.begin + float(a)) * clock.tick),
            end=_ms(rehearsal, (span.begin + float(b)) * clock.tick),
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


def _distributions(rehearsal: Rehearsal) -> list[Distribution]:
    """For each policy: where the samples of its metric lay over the whole rehearsal."""
    found = []
    for policy in rehearsal.crew.group.policies:
        _, scale, top, _ = metric_range(policy.metric)
        level = policy.level if isinstance(policy, HoldPolicy) else policy.threshold
        samples = rehearsal.result.state.samples[METRIC_CODES[policy.metric]]
        values = samples[~np.isnan(samples)]
        top = max(top, 1.5 * level * scale)
        bins, _ = np.histogram(np.minimum(values * scale, top), bins=DISTRIBUTION_BINS, range=(0, top))
        below = not isinstance(policy, HoldPolicy) and policy.side == "below"
        past = float((values < level).mean() if below else (values > level).mean()) if len(values) else 0.0
        side: Literal["below", "above"] = "below" if below else "above"
        found.append(
            Distribution(
                path=f"policies.{policy.name}.{'level' if isinstance(policy, HoldPolicy) else 'threshold'}",
                top=top,
                shares=[round(float(share), 5) for share in bins / max(1, len(values))],
                past=past,
                text=f"{side} it {say_share(past)} of the time" if len(values) else "no data in the last rehearsal",
            )
        )
    return found
