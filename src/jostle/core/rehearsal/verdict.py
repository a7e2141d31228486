"""The verdict: the figures of one rehearsal, and whether each promise was kept."""

from decimal import Decimal
from typing import Annotated, Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field, PlainSerializer

from jostle.core.costs.price import bill
from jostle.core.plan.promise import AnswersPromise, CostPromise
from jostle.core.plan.quantity import say_duration, say_money, say_share
from jostle.core.rehearsal.rehearsal import Rehearsal

WEEK_DAYS = 7
Amount = Annotated[
    Decimal,
    PlainSerializer(lambda amount: float(round(amount, 6)), return_type=float),
    Field(description="Amount of the currency"),
]


class Figures(BaseModel):
    """Figures over the whole span. The unit is in the name; cost is in `currency`."""

    model_config = ConfigDict(frozen=True)

    cost: Amount
    currency: str
    instance_hours: float
    short_minutes: float = Field(description="Time in which requests waited or failed for want of capacity")
    requests_in: float
    requests_served: float
    requests_failed: float
    requests_waiting: float = Field(description="Still waiting at the end")
    latency_p50_ms: float | None = Field(description="Over all requests; null where fewer than this share was answered")
    latency_p95_ms: float | None
    changes: int = Field(description="Changes of the desired count")
    mean_cpu_percent: float | None = Field(description="Over serving instances")
    min_count: int = Field(description="Lowest desired count")
    max_count: int = Field(description="Highest desired count")
    always_peak_cost: Amount | None = Field(description="Cost of the smallest fixed count that keeps the promises")
    foresight_cost: Amount | None = Field(description="Cost with perfect knowledge of the demand")


class PromiseVerdict(BaseModel):
    """One promise, judged."""

    model_config = ConfigDict(frozen=True)

    kind: Literal["answers", "cost"]
    text: str
    kept: bool
    measured: str


class Verdict(BaseModel):
    model_config = ConfigDict(frozen=True)

    figures: Figures
    promises: list[PromiseVerdict]


def verdict(rehearsal: Rehearsal) -> Verdict:
    """Judge a rehearsal."""
    figures = _figures(rehearsal)
    return Verdict(figures=figures, promises=[_judged(rehearsal, figures, p) for p in rehearsal.crew.group.promises])


def _figures(rehearsal: Rehearsal) -> Figures:
    result, series = rehearsal.result, rehearsal.result.state.series
    price = rehearsal.crew.machine_type.price_per_hour
    short = (series["waiting"] > 0) | (series["failed"] > 0)
    served_ticks = result.tally("served_ticks")
    decisions = result.decisions
    counts = np.concatenate([[rehearsal.crew.group.first_count], decisions["decided"]])
    bounds = rehearsal.bounds
    p50, p95 = result.latency(0.5), result.latency(0.95)
    return Figures(
        cost=bill(result.instance_seconds, price),
        currency=rehearsal.plan.currency,
        instance_hours=round(float(result.instance_seconds.sum()) / 3600, 6),
        short_minutes=round(float(short.sum()) * result.setup.tick / 60, 3),
        requests_in=result.requests_in,
        requests_served=result.tally("served"),
        requests_failed=result.tally("failed"),
        requests_waiting=result.tally("backlog"),
        latency_p50_ms=None if p50 is None else round(p50 * 1000, 3),
        latency_p95_ms=None if p95 is None else round(p95 * 1000, 3),
        changes=int((decisions["decided"] != decisions["desired"]).sum()),
        mean_cpu_percent=round(100 * result.tally("cpu_ticks") / served_ticks, 3) if served_ticks else None,
        min_count=int(counts.min()),
        max_count=int(counts.max()),
        always_peak_cost=bounds.always_peak,
        foresight_cost=bounds.foresight,
    )


def _judged(rehearsal: Rehearsal, figures: Figures, promise: AnswersPromise | CostPromise) -> PromiseVerdict:
    currency = rehearsal.plan.currency
    if isinstance(promise, AnswersPromise):
        late = rehearsal.result.late_share(promise.within)
        return PromiseVerdict(
            kind="answers",
            text=f"{say_share(promise.share, 4)} of answers within {say_duration(promise.within)}",
            kept=late <= 1 - promise.share + 1e-12,
            measured=f"{say_share(np.floor((1 - late) * 10000) / 10000, 4)} were",
        )
    weekly = figures.cost * Decimal(WEEK_DAYS) / Decimal(str(rehearsal.plan.days))
    return PromiseVerdict(
        kind="cost",
        text=f"at most {say_money(promise.at_most, currency)} a week",
        kept=weekly <= promise.at_most,
        measured=f"{say_money(weekly, currency)} a week",
    )


class Difference(BaseModel):
    """How one figure differs from that of another take."""

    model_config = ConfigDict(frozen=True)

    figure: str
    text: str
    better: bool | None = Field(description="null where the difference is neither good nor bad")


def differences(now: Figures, before: Figures) -> list[Difference]:
    """The figures of the verdict that differ. Less is better in each of them, but for changes of count."""
    found = []
    for figure, unit, judged in (
        ("cost", "%", True),
        ("short_minutes", "", True),
        ("latency_p95_ms", "", True),
        ("requests_failed", "", True),
        ("changes", "", False),
    ):
        new, old = getattr(now, figure), getattr(before, figure)
        if new is None or old is None:
            if new is not old:
                found.append(Difference(figure=figure, text="was none" if old is None else "", better=old is None))
            continue
        change = float(new) - float(old)
        shown = 100 * change / float(old) if unit == "%" and old else change
        text = f"{abs(shown):,.1f}" if unit == "%" or (abs(shown) < 10 and shown % 1) else f"{abs(shown):,.0f}"
        if text.strip("0.,") == "":
            continue
        sign = "+" if shown > 0 else "−"
        found.append(Difference(figure=figure, text=f"{sign}{text}{' %' if unit else ''}", better=change < 0 if judged else None))
    return found
