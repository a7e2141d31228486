"""A rehearsal's picture: all strips over one span of time, with the marks of its axis."""

from datetime import datetime, timedelta

import numpy as np
from pydantic import BaseModel

from jostle.api.metric_strip import Distribution, MetricStrip, distributions, metric_strip, metrics_of
from jostle.api.strips import (
    Between,
    CountStrip,
    DemandStrip,
    Lane,
    Numbers,
    SpendStrip,
    at_ms,
    count_strip,
    demand_strip,
    lane_strip,
    numbers,
    spend_strip,
    wanted,
)
from jostle.core.rehearsal.rehearsal import Rehearsal
from jostle.core.rehearsal.strip import Span

MINIMAP_BUCKETS = 240


class AxisMark(BaseModel):
    at: float
    label: str
    day: bool


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
        begin=at_ms(rehearsal, span.begin * clock.tick),
        end=at_ms(rehearsal, span.end * clock.tick),
        whole=Between(begin=at_ms(rehearsal, 0), end=at_ms(rehearsal, clock.seconds)),
        times=[at_ms(rehearsal, float(k) * clock.tick) for k in span.edges],
        axis=_axis(rehearsal, span),
        demand=demand_strip(rehearsal, span),
        metrics=[metric_strip(rehearsal, span, metric) for metric in metrics_of(rehearsal)],
        count=count_strip(rehearsal, span),
        lanes=list(lane_strip(rehearsal, span)),
        spend=spend_strip(rehearsal, span),
        minimap=numbers(whole.buckets(wanted(rehearsal)).high),
        distributions=distributions(rehearsal),
    )


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
