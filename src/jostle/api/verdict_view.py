"""The verdict as the screen says it."""

import math

from pydantic import BaseModel, Field

from jostle.core.plan.quantity import say_duration, say_money, say_number, say_share
from jostle.core.rehearsal.rehearsal import Rehearsal
from jostle.core.rehearsal.verdict import Difference, Figures, PromiseVerdict, differences


class Between01(BaseModel):
    """Where the cost stands between foresight (0) and always-peak (1)."""

    place: float | None
    foresight: str
    always_peak: str


class Service(BaseModel):
    """How well the work was done, by the measure of its kind; `field` is the figure that it differs by."""

    name: str
    figure: str
    field: str


class VerdictView(BaseModel):
    """The verdict as the screen says it, with its differences from the starred take."""

    figures: Figures
    span: str = Field(description="How long a time the figures are over")
    cost: str
    short: str
    lost: str = Field(description="What was lost: requests failed, jobs given back, sessions refused or cut off")
    service: Service
    changes: str
    promises: list[PromiseVerdict]
    differences: list[Difference]
    compared_with: int | None
    bounds: Between01


def _lost(figures: Figures) -> str:
    match figures.work:
        case "jobs":
            back = f", {figures.returned_jobs:,.0f} given back" if figures.returned_jobs >= 0.5 else ""
            return f"{figures.waiting:,.0f} jobs left waiting{back}"
        case "sessions":
            return f"{figures.failed:,.0f} sessions refused, {figures.cut_off:,} cut off"
    return f"{figures.failed:,.0f} requests failed"


def _service(figures: Figures) -> Service:
    match figures.work:
        case "jobs":
            return Service(name="95 % taken up in", figure=say_duration(round(figures.wait_p95_s or 0)), field="wait_p95_s")
        case "sessions":
            share = 1 - figures.failed / figures.arrived if figures.arrived else 1.0
            return Service(name="Found a seat", figure=say_share(math.floor(share * 10000) / 10000, 4), field="failed")
    p95 = figures.latency_p95_ms
    return Service(name="95 % answered in", figure="not answered" if p95 is None else f"{p95:,.0f} ms", field="latency_p95_ms")


def verdict_view(
    rehearsal: Rehearsal, figures: Figures, promises: list[PromiseVerdict], beside: tuple[int, Figures] | None = None
) -> VerdictView:
    """A verdict in words; `beside` is the number of a take and its figures, from which the differences are told."""
    low, high = figures.foresight_cost, figures.always_peak_cost
    place = None
    if low is not None and high is not None and high > low:
        place = float((figures.cost - low) / (high - low))
    currency = figures.currency
    return VerdictView(
        figures=figures,
        span=say_duration(rehearsal.clock.seconds),
        cost=say_money(figures.cost, currency),
        short=f"{say_number(figures.short_minutes)} min",
        lost=_lost(figures),
        service=_service(figures),
        changes=str(figures.changes),
        promises=promises,
        differences=differences(figures, beside[1]) if beside else [],
        compared_with=beside[0] if beside else None,
        bounds=Between01(
            place=place,
            foresight="none" if low is None else say_money(low, currency),
            always_peak="none" if high is None else say_money(high, currency),
        ),
    )
