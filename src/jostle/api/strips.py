"""The strips of a rehearsal: what the screen draws, already cut to its width and in the units it shows."""

from functools import lru_cache
from typing import Any
from zoneinfo import ZoneInfo

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, Field

from jostle.api.answer import column
from jostle.core.built.figure import lanes, mean_between, rounded
from jostle.core.calendar.orders import HIGHEST, Gate
from jostle.core.decide.code import Outcome, Stance
from jostle.core.engine.mix import are_spot, types_of
from jostle.core.plan.clock import offsets
from jostle.core.plan.quantity import say_money, say_number
from jostle.core.plan.word import heading
from jostle.core.rehearsal.forecast import looking_ahead
from jostle.core.rehearsal.name import given_name
from jostle.core.rehearsal.rehearsal import Rehearsal
from jostle.core.rehearsal.rollout_state import serving_of
from jostle.core.rehearsal.spend import spend_rate
from jostle.core.rehearsal.strip import Span, wanted

Numbers = list[float | None]
BARS_KEPT = 64


class Between(BaseModel):
    """A stretch of time, ms since 1970."""

    begin: float
    end: float


class Stretches(BaseModel):
    """Stretches of time, a column for their begins and one for their ends, ms since 1970."""

    begin: list[float]
    end: list[float]


class DemandStrip(BaseModel):
    """Demand and capacity in `unit`; shortfall is the demand beyond the capacity, or the sessions refused in a tick. `expected`
    is what a policy that looks ahead expected at the most within its lead, with how far off it usually is; empty without one."""

    unit: str
    demand: Numbers
    demand_high: Numbers
    capacity: Numbers
    shortfall: Numbers
    expected: Numbers
    expected_off: Numbers
    summary: str


class OfVersion(BaseModel):
    version: int
    serving: Numbers


class CountStrip(BaseModel):
    counted: str = Field(description="What is counted")
    serving: Numbers
    desired: Numbers
    minimum: int
    maximum: int
    floor: Numbers = Field(description="What the calendar asks for at least; null where it says nothing")
    ceiling: Numbers = Field(description="What the calendar allows at most; null where it says nothing")
    asleep: Stretches
    waits: Stretches
    versions: list[OfVersion] = Field(description="Those that serve by version, the newest first; empty where all are of one")
    summary: str


class Lanes(BaseModel):
    """Starts of instances, a column for each of what is said of them. Times are ms since 1970; `row` is the line on which one is
    drawn, `zone` its place in `zones`, `spot` 1 for what was bought on the market, `load` the group's average CPU while it
    served, a fraction."""

    zones: list[str]
    machines: list[str]
    instance: list[int]
    name: list[str] = Field(description="What each is called; none where the group has no names for them")
    row: list[int]
    zone: list[int]
    version: list[int]
    spot: list[int]
    machine: list[int] = Field(description="Place of its machine in `machines`")
    load: Numbers
    requested: list[float]
    booted: list[float]
    serves: list[float]
    drains: Numbers
    gone: Numbers


class SpendBars(BaseModel):
    """Bars, a column for each of what is said of them; times are ms since 1970."""

    begin: list[float]
    end: list[float]
    per_hour: list[float]


class SpendStrip(BaseModel):
    bars: SpendBars
    summed: Numbers
    total: str
    summary: str


def numbers(values: NDArray[Any]) -> Numbers:
    """Five significant digits are more than a screen shows; nan becomes null."""
    return [None if value != value else value for value in rounded(values).tolist()]


def drawn(values: NDArray[Any]) -> Any:
    """The same as a column of an answer."""
    return rounded(values)


def at_ms(rehearsal: Rehearsal, seconds: float) -> float:
    return (rehearsal.clock.first + seconds) * 1000


def demand_strip(rehearsal: Rehearsal, span: Span) -> DemandStrip:
    """Arrivals against what the instances can do; for sessions, those that want a seat against the seats."""
    series, work = rehearsal.result.series, rehearsal.crew.group.work
    unit = work.load
    asked = wanted(rehearsal)
    rate, capacity = span.buckets(asked), span.buckets(series["capacity"])
    missing = np.maximum(asked - series["capacity"], 0.0)
    short = span.buckets(series["failed"].astype(np.float64) if work.held else missing)
    peak, lowest = float(np.nanmax(rate.high)), float(np.nanmin(rate.low))
    minutes = float(series["short"][span.begin : span.end].sum()) * rehearsal.clock.tick / 60
    expected, off = _expected(rehearsal, span)
    return DemandStrip.model_construct(
        unit=unit,
        demand=drawn(rate.mean),
        demand_high=drawn(rate.high),
        capacity=drawn(capacity.mean),
        shortfall=drawn(short.high),
        expected=expected,
        expected_off=off,
        summary=f"Demand between {say_number(lowest)} and {say_number(peak)} {unit}; capacity up to "
        f"{say_number(float(np.nanmax(capacity.high)))}; short for {say_number(minutes)} min.",
    )


def _expected(rehearsal: Rehearsal, span: Span) -> tuple[Any, Any]:
    """What the first policy that looks ahead expected at each instant, and how far off that usually is."""
    ahead, setup = looking_ahead(rehearsal), rehearsal.result.setup
    if not ahead or not len(rehearsal.result.views):
        return [], []
    views, each = rehearsal.result.views[:, ahead[0][0]], setup.of("each") if rehearsal.crew.group.work.held else 1.0
    known = [each * np.where(np.isnan(views["value"]), np.nan, views[field]) for field in ("value", "off")]
    expected, off = (span.buckets(at_ticks(rehearsal, one)).mean for one in known)
    return drawn(expected), drawn(off)


def at_ticks(rehearsal: Rehearsal, told: NDArray[Any]) -> NDArray[Any]:
    """What was told at each evaluation, at every tick since."""
    step = round(rehearsal.crew.group.evaluate_every / rehearsal.clock.tick)
    return np.asarray(told[np.minimum(np.arange(rehearsal.clock.ticks) // step, len(told) - 1)])


def count_strip(rehearsal: Rehearsal, span: Span) -> CountStrip:
    series, group = rehearsal.result.series, rehearsal.crew.group
    serving, desired = span.buckets(series["units"]), span.buckets(series["desired"])
    low, high = int(desired.low.min()), int(desired.high.max())
    return CountStrip.model_construct(
        counted=heading(group.unit),
        serving=drawn(serving.mean),
        desired=drawn(desired.mean),
        minimum=group.minimum,
        maximum=group.maximum,
        floor=_ordered(rehearsal, span, "low", 0),
        ceiling=_ordered(rehearsal, span, "high", HIGHEST),
        asleep=_stretches(rehearsal, span, (rehearsal.result.setup.orders["gates"] & Gate.SLEEP) > 0),
        waits=_waits(rehearsal, span),
        versions=_by_version(rehearsal, span),
        summary=f"Desired count between {low} and {high}{'' if group.unit == 'instance' else f' {group.unit}s'}; "
        f"serving between {int(serving.low.min())} and {int(serving.high.max())}.",
    )


def _by_version(rehearsal: Rehearsal, span: Span) -> list[OfVersion]:
    """Those that serve by version, where several do within the span."""
    result = rehearsal.result
    known = sorted({int(version) for version in np.unique(result.instances["version"])}, reverse=True)
    if len(known) < 2:
        return []
    found = [(version, serving_of(result, version)) for version in known]
    there = [(version, served) for version, served in found if served[span.begin : span.end].any()]
    if len(there) < 2:
        return []
    return [OfVersion.model_construct(version=version, serving=drawn(span.buckets(served).mean)) for version, served in there]


def _ordered(rehearsal: Rehearsal, span: Span, field: str, silent: int) -> Any:
    """What the calendar's floors or bounds say in each bucket, the highest of it."""
    said = rehearsal.result.setup.orders[field]
    if not len(said) or np.all(said == silent):
        return []
    return drawn(span.buckets(at_ticks(rehearsal, np.where(said == silent, np.nan, said))).high)


def _waits(rehearsal: Rehearsal, span: Span) -> Stretches:
    """Where a policy, or the group, would act but waits."""
    rows = rehearsal.result.decisions
    views = rehearsal.result.views
    waiting = (views["state"] == Stance.WAITING).any(axis=1) | (rows["outcome"] == Outcome.GROUP_WAITS)
    return _stretches(rehearsal, span, waiting)


def _stretches(rehearsal: Rehearsal, span: Span, waiting: NDArray[np.bool_]) -> Stretches:
    """Stretches of evaluations of which something is true; those closer than a pixel are joined."""
    rows, tick = rehearsal.result.decisions, rehearsal.clock.tick
    begin, end = span.begin * tick, span.end * tick
    edges = np.flatnonzero(np.diff(np.concatenate([[0], waiting.astype(np.int8), [0]])))
    lows, highs = rows["time"][edges[::2]], rows["time"][edges[1::2] - 1] + rehearsal.crew.group.evaluate_every
    there = (highs > begin) & (lows < end)
    lows, highs = np.maximum(lows[there], begin), np.minimum(highs[there], end)
    apart = lows[1:] - highs[:-1] >= (end - begin) / 1000
    first = rehearsal.clock.first * 1000
    since, until = lows[np.append(True, apart)[: len(lows)]], highs[np.append(apart, True)[: len(highs)]]
    return Stretches.model_construct(begin=column(first + since * 1000), end=column(first + until * 1000))


def laid_lives(rehearsal: Rehearsal) -> tuple[NDArray[np.void], NDArray[np.int64]]:
    """Lives of instances in the order of their requests, and the line on which each is drawn."""
    rows = rehearsal.result.lives
    rows = rows[np.argsort(rows["requested"], kind="stable")]
    return rows, lanes(rows["instance"], rows["requested"], rows["end"])


def lane_strip(rehearsal: Rehearsal, span: Span) -> Lanes:
    """Lives of instances that touch the span, each on the first line that is free when it is requested."""
    rows, lines = laid_lives(rehearsal)
    begin, end = span.begin * rehearsal.clock.tick, span.end * rehearsal.clock.tick
    there = (rows["requested"] < end) & ~(rows["end"] <= begin)
    rows, lines = rows[there], lines[there]
    who = rehearsal.result.instances[rows["instance"]]
    first, far = rehearsal.clock.first * 1000, at_ms(rehearsal, rehearsal.clock.seconds) + 1
    types = rehearsal.crew.every_type
    machines = list(dict.fromkeys(one.launch.machine for one in types))
    coming = {field: column(np.minimum(first + rows[field] * 1000, far)) for field in ("requested", "booted", "serves")}
    return Lanes.model_construct(
        zones=rehearsal.crew.launch.zones,
        machines=machines,
        instance=column(rows["instance"] + 1),
        name=[given_name(rehearsal, int(who)) for who in rows["instance"]] if rehearsal.crew.group.identity else [],
        row=column(lines),
        zone=column(who["zone"]),
        version=column(who["version"]),
        spot=column(are_spot(who["kind"]).astype(int)),
        machine=column(np.array([machines.index(one.launch.machine) for one in types])[types_of(who["kind"])]),
        load=column(np.round(_load(rehearsal, rows), 4)),
        **coming,
        drains=column(first + rows["drains"] * 1000),
        gone=column(first + rows["end"] * 1000),
    )


def _load(rehearsal: Rehearsal, lives: NDArray[np.void]) -> NDArray[np.float64]:
    """The group's average CPU while each served; nan for one that never did."""
    clock = rehearsal.clock
    until = np.fmin(np.fmin(lives["drains"], lives["end"]), clock.seconds)
    begin, end = (np.clip(np.nan_to_num(t / clock.tick), 0, clock.ticks).astype(np.int64) for t in (lives["serves"], until))
    return mean_between(rehearsal.result.series["cpu"], begin, end)


@lru_cache(BARS_KEPT)
def _bar_edges(zone: ZoneInfo, first: float, tick: float, begin: int, end: int) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """First ticks of bars of whole hours on the wall, and those after their last, counted from `begin`."""
    hours = next((h for h in (1, 2, 3, 6, 12, 24) if (end - begin) * tick / 3600 / h <= 60), 24)
    epochs = np.asarray(first + tick * np.arange(begin, end), dtype=np.float64)
    number = (epochs + offsets(epochs, zone)) // (hours * 3600)
    starts = np.concatenate([[0], 1 + np.flatnonzero(np.diff(number))])
    return starts, np.append(starts[1:], len(number))


def spend_strip(rehearsal: Rehearsal, span: Span) -> SpendStrip:
    clock, rate = rehearsal.clock, spend_rate(rehearsal)
    starts, ends = _bar_edges(clock.zone, clock.first, clock.tick, span.begin, span.end)
    per_hour = np.add.reduceat(rate[span.begin : span.end], starts) / (ends - starts) * 3600
    times = [(rehearsal.clock.first + (span.begin + edges) * clock.tick) * 1000 for edges in (starts, ends)]
    bars = SpendBars.model_construct(begin=column(times[0]), end=column(times[1]), per_hour=column(np.round(per_hour, 4)))
    before = float(rate[: span.begin].sum())
    summed = (before + np.cumsum(rate[span.begin : span.end])) * clock.tick
    total = say_money(round(float(summed[-1]) - before * clock.tick, 2), rehearsal.plan.currency)
    most = say_money(round(float(per_hour.max()), 2), rehearsal.plan.currency)
    return SpendStrip.model_construct(
        bars=bars,
        summed=drawn(summed[np.append(span.edges[1:], span.end) - span.begin - 1]),
        total=total,
        summary=f"{total} in this span, at most {most} an hour.",
    )
