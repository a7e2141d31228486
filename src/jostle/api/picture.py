"""A rehearsal's picture: all strips over one span of time, with the marks of its axis."""

from pydantic import BaseModel

from jostle.api.answer import column
from jostle.api.axis import AxisMark, axis, bucket_times, span_between
from jostle.api.calendar_view import CalendarView, calendar_view
from jostle.api.hosting_strip import Cargo, CopiesStrip, cargo, copies_strip
from jostle.api.market_strip import market_strips, offered_market
from jostle.api.metric_strip import (
    Distribution,
    MetricStrip,
    OfferedMetric,
    distributions,
    metric_strip,
    metrics_of,
    offered_metrics,
)
from jostle.api.strips import (
    Between,
    CountStrip,
    DemandStrip,
    Lanes,
    Numbers,
    SpendStrip,
    at_ms,
    count_strip,
    demand_strip,
    drawn,
    lane_strip,
    spend_strip,
)
from jostle.core.rehearsal.rehearsal import Rehearsal
from jostle.core.rehearsal.strip import Span, wanted

MINIMAP_BUCKETS = 240


class Picture(BaseModel):
    """All strips over one span. Times are ms since 1970; `times` are the beginnings of the buckets."""

    begin: float
    end: float
    whole: Between
    times: list[float]
    axis: list[AxisMark]
    demand: DemandStrip
    metrics: list[MetricStrip]
    offered: list[OfferedMetric]
    count: CountStrip
    copies: CopiesStrip | None
    cargo: Cargo | None
    lanes: Lanes
    spend: SpendStrip
    minimap: Numbers
    distributions: list[Distribution]
    calendar: CalendarView


def picture(
    rehearsal: Rehearsal, begin: float | None, end: float | None, buckets: int, besides: list[str] | None = None
) -> Picture:
    """The strips from `begin` to `end`, ms since 1970 (the whole span if left out), in at most so many buckets; `besides` names
    metrics that no policy looks at."""
    clock, ticks = rehearsal.clock, rehearsal.clock.ticks
    span = span_between(clock, begin, end, buckets)
    whole = Span.of(ticks, 0, ticks, MINIMAP_BUCKETS)
    return Picture.model_construct(
        begin=at_ms(rehearsal, span.begin * clock.tick),
        end=at_ms(rehearsal, span.end * clock.tick),
        whole=Between(begin=at_ms(rehearsal, 0), end=at_ms(rehearsal, clock.seconds)),
        times=column(bucket_times(clock, span)),
        axis=axis(clock, span),
        demand=demand_strip(rehearsal, span),
        metrics=[
            *(metric_strip(rehearsal, span, metric) for metric in metrics_of(rehearsal, besides or [])),
            *market_strips(rehearsal, span, besides or []),
        ],
        offered=[*offered_metrics(rehearsal), *offered_market(rehearsal)],
        count=count_strip(rehearsal, span),
        copies=copies_strip(rehearsal, span),
        cargo=cargo(rehearsal, span),
        lanes=lane_strip(rehearsal, span),
        spend=spend_strip(rehearsal, span),
        minimap=drawn(whole.buckets(wanted(rehearsal)).high),
        distributions=distributions(rehearsal),
        calendar=calendar_view(rehearsal, span),
    )
