"""The spot market as strips: what it asks and how risky it is, under the caps of the group."""

from typing import Literal

import numpy as np

from jostle.api.metric_strip import BENT, DWARFED, MetricStrip, OfferedMetric, Threshold
from jostle.api.strips import drawn
from jostle.core.plan.quantity import say_share
from jostle.core.rehearsal.market_course import market_course
from jostle.core.rehearsal.rehearsal import Rehearsal
from jostle.core.rehearsal.strip import Span

STRIPS: dict[str, tuple[Literal["price", "risk"], str, str]] = {
    "spot:price": ("price", "spot price", "of the on-demand price"),
    "spot:risk": ("risk", "spot risk", "reclaimed an hour"),
}


def offered_market(rehearsal: Rehearsal) -> list[OfferedMetric]:
    """What can be shown of the market that a group buys on."""
    if rehearsal.crew.group.buying is None:
        return []
    return [OfferedMetric(key=key, label=label) for key, (_, label, _) in STRIPS.items()]


def market_strips(rehearsal: Rehearsal, span: Span, besides: list[str]) -> list[MetricStrip]:
    """Those strips of the market that were asked for."""
    wanted = {one.key for one in offered_market(rehearsal)}
    return [_strip(rehearsal, span, key) for key in dict.fromkeys(besides) if key in wanted]


def _strip(rehearsal: Rehearsal, span: Span, key: str) -> MetricStrip:
    what, label, of = STRIPS[key]
    course, buying = market_course(rehearsal, what), rehearsal.crew.group.buying
    assert buying is not None
    cap = buying.caps.price if what == "price" else buying.caps.risk
    low, high, mean = (span.buckets(100 * each) for each in course)
    there = high.high[~np.isnan(high.high)]
    most = float(there.max()) if len(there) else 0.0
    least = float(np.nanmin(low.low)) if len(there) else 0.0
    ran = mean.mean[~np.isnan(mean.mean)]
    paid = f"; those that run, {say_share(round(float(ran.mean()) / 100, 3))} on average" if len(ran) else ""
    mark = Threshold(
        path=f"buying.caps.{what}",
        policy="the cap",
        tone="both",
        text=f"up to {say_share(cap)}",
        side="up to",
        value=cap,
        shown=100 * cap,
        step=0.01 if what == "price" else 0.005,
    )
    summary = (
        f"{say_share(round(least / 100, 3))} to {say_share(round(most / 100, 3))} {of}{paid}."
        if len(there)
        else "Nothing is sold."
    )
    return MetricStrip.model_construct(
        metric=key,
        label=label,
        unit="%",
        scale=100.0,
        top=max(1.15 * most, 1.3 * mark.shown if mark.shown < 3 * most else 0.0, 1.0),
        bend=BENT if len(there) and most > DWARFED * float(np.median(there)) else 1.0,
        low=drawn(low.low),
        high=drawn(high.high),
        mean=drawn(np.where(np.isnan(mean.mean), low.mean, mean.mean)),
        thresholds=[mark] if mark.shown < 3 * most else [],
        summary=summary,
    )
