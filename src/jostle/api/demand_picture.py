"""A demand's picture: what arrives, stacked from its bases and load tests, and each layer on a strip of its own."""

from typing import Literal

from pydantic import BaseModel, Field

from jostle.api.axis import AxisMark, axis, bucket_times, span_between
from jostle.api.strips import Between, Numbers, numbers
from jostle.core.demand.series import demand_series
from jostle.core.plan.clock import Clock
from jostle.core.plan.demand import Demand
from jostle.core.plan.layer import WEEKDAYS, Bursts, Daily, Layer, Sheet, Weekdays, seconds_of_day
from jostle.core.plan.quantity import say_number
from jostle.core.plan.setting import position_of
from jostle.core.rehearsal.strip import Span


class Block(BaseModel):
    """A stretch of the time axis that can be moved, ms since 1970, and whether its end can be moved by itself."""

    begin: float
    end: float
    stretches: bool


class CurvePoint(BaseModel):
    """A point of a day's shape, or the time of a burst, whose factor is 1. `seconds` counts from midnight."""

    path: str
    at: str
    seconds: float
    factor: float


class LayerStrip(BaseModel):
    """A layer by itself: arrivals per second, or a factor."""

    key: str
    unit: Literal["/s", "times"]
    top: float
    low: Numbers
    high: Numbers
    mean: Numbers
    block: Block | None
    points: list[CurvePoint]
    lasts: float = Field(description="How long each of its bursts lasts, s; 0 for any other layer")


class IncidentStrip(BaseModel):
    key: str
    block: Block


class Part(BaseModel):
    """What a base or a load test adds to the demand."""

    key: str
    mean: Numbers


class DemandPicture(BaseModel):
    """Times are ms since 1970; `times` are the beginnings of the buckets; rates are arrivals per second."""

    begin: float
    end: float
    whole: Between
    times: list[float]
    axis: list[AxisMark]
    top: float
    mean: Numbers
    high: Numbers
    without: Numbers = Field(description="The demand without the layer that was asked about")
    parts: list[Part]
    layers: list[LayerStrip]
    incidents: list[IncidentStrip]
    summary: str


def demand_picture(
    demand: Demand, clock: Clock, seed: int, begin: float | None, end: float | None, buckets: int, apart: str | None
) -> DemandPicture:
    """The strips of a demand over a span of a clock; `apart` is the key of a layer to leave out besides."""
    span = span_between(clock, begin, end, buckets)
    total = demand_series(demand, clock, seed)
    cut = span.buckets(total)
    without = _without(demand, apart)
    first, last = (clock.first + k * clock.tick for k in (span.begin, span.end))
    arrivals = float(total.sum()) * clock.tick
    return DemandPicture(
        begin=first * 1000,
        end=last * 1000,
        whole=Between(begin=clock.first * 1000, end=(clock.first + clock.seconds) * 1000),
        times=bucket_times(clock, span),
        axis=axis(clock, span),
        top=float(total.max()),
        mean=numbers(cut.mean),
        high=numbers(cut.high),
        without=[] if without is None else numbers(span.buckets(demand_series(without, clock, seed)).mean),
        parts=_parts(demand, clock, seed, span),
        layers=[_layer_strip(layer, k, clock, seed, span) for k, layer in enumerate(demand.layers)],
        incidents=[
            IncidentStrip(key=f"incidents.{k}", block=block)
            for k, one in enumerate(demand.incidents)
            if (block := _block(one, clock)) is not None
        ],
        summary=f"Between {say_number(float(total.min()))} and {say_number(float(total.max()))} a second, "
        f"{say_number(float(total.mean()))} on average; {say_number(arrivals)} in all.",
    )


def _without(demand: Demand, apart: str | None) -> Demand | None:
    number = position_of((apart or "").removeprefix("layers."), len(demand.layers))
    if number is None:
        return None
    layers = [layer.model_copy(update={"muted": layer.muted or k == number}) for k, layer in enumerate(demand.layers)]
    return demand.model_copy(update={"layers": layers})


def _parts(demand: Demand, clock: Clock, seed: int, span: Span) -> list[Part]:
    """What each base and each load test brings by itself, shaped as the whole is."""
    sources = [k for k, layer in enumerate(demand.layers) if layer.role != "shape" and not layer.muted]
    parts = []
    for source in sources if len(sources) > 1 else []:
        layers = [
            layer.model_copy(update={"muted": layer.muted or (k != source and layer.role != "shape")})
            for k, layer in enumerate(demand.layers)
        ]
        alone = demand_series(demand.model_copy(update={"layers": layers}), clock, seed)
        parts.append(Part(key=f"layers.{source}", mean=numbers(span.buckets(alone).mean)))
    return parts


def _layer_strip(layer: Layer, number: int, clock: Clock, seed: int, span: Span) -> LayerStrip:
    series = layer.series(clock, number, seed)
    cut, path = span.buckets(series), f"layers.{number}"
    return LayerStrip(
        key=path,
        unit="times" if layer.role == "shape" else "/s",
        top=max(float(series.max()), 1e-9),
        low=numbers(cut.low),
        high=numbers(cut.high),
        mean=numbers(cut.mean),
        block=_block(layer, clock),
        points=_points(layer, path),
        lasts=layer.over if isinstance(layer, Bursts) else 0.0,
    )


def _points(layer: Layer, path: str) -> list[CurvePoint]:
    if isinstance(layer, Weekdays):
        return [
            CurvePoint(path=f"{path}.{day}", at=day, seconds=k * 86400.0, factor=getattr(layer, day))
            for k, day in enumerate(WEEKDAYS)
        ]
    if isinstance(layer, Bursts):
        return [
            CurvePoint(path=f"{path}.at.{k}", at=at, seconds=float(seconds_of_day(at)), factor=1) for k, at in enumerate(layer.at)
        ]
    if not isinstance(layer, Daily):
        return []
    return [
        CurvePoint(path=f"{path}.points.{k}", at=p.at, seconds=float(seconds_of_day(p.at)), factor=p.factor)
        for k, p in enumerate(layer.points)
    ]


def _block(sheet: Sheet, clock: Clock) -> Block | None:
    where = sheet.lies(clock)
    if where is None:
        return None
    begin, seconds, stretches = where
    return Block(begin=begin * 1000, end=(begin + seconds) * 1000, stretches=stretches)
