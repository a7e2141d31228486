"""A metric as a strip: its course, the thresholds that can be moved on it, and where its samples lay."""

from typing import Literal, NamedTuple

import numpy as np
from pydantic import BaseModel, Field

from jostle.api.strips import Numbers, drawn
from jostle.core.decide.rules import dial_row
from jostle.core.plan.metric import Metric
from jostle.core.plan.policy import MetricPolicy, Policy
from jostle.core.plan.quantity import say_share
from jostle.core.plan.work import Work
from jostle.core.rehearsal.rehearsal import Rehearsal
from jostle.core.rehearsal.strip import Span, metric_series, zone_series

DISTRIBUTION_BINS = 40
# A latency beyond this (s) is told in seconds; a peak so many times the usual dwarfs it, and the scale is bent to show both
LONG, DWARFED, BENT = 5.0, 8.0, 0.35


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
    metric: str
    label: str
    unit: str
    scale: float
    top: float
    bend: float = Field(
        description="A value stands at (value / top) to this power of the height: 1, or less where peaks dwarf the rest"
    )
    low: Numbers
    high: Numbers
    mean: Numbers
    thresholds: list[Threshold]
    summary: str


class Distribution(BaseModel):
    """How much of the time a policy's metric spent where, in shown units, and past its threshold."""

    path: str
    top: float
    shares: list[float]
    past: float
    text: str


class OfferedMetric(BaseModel):
    """A metric that can be shown as a strip besides."""

    key: str
    label: str


class Shown(NamedTuple):
    """What a strip shows: a metric, an outside series by its name, or the metric in one zone."""

    metric: Metric
    series: str | None = None
    zone: str | None = None

    @property
    def key(self) -> str:
        return f"{self.metric}:{self.series}" if self.series else f"{self.metric}@{self.zone}" if self.zone else self.metric

    @property
    def label(self) -> str:
        return self.series or (f"{self.metric.label} in {self.zone}" if self.zone else self.metric.label)


def metrics_of(rehearsal: Rehearsal, besides: list[str]) -> list[Shown]:
    """The metrics that the policies look at, outside series by name; CPU where they look at none. Then those asked for besides
    which there are."""
    group = rehearsal.crew.group
    watched = [_shown(policy, group.work) for policy in group.policies]
    known = {shown.key: shown for shown in _all(rehearsal)}
    asked = [known[key] for key in besides if key in known]
    return list(dict.fromkeys([*([shown for shown in watched if shown] or [Shown(Metric.CPU)]), *asked]))


def offered_metrics(rehearsal: Rehearsal) -> list[OfferedMetric]:
    return [OfferedMetric(key=shown.key, label=shown.label) for shown in _all(rehearsal)]


def _all(rehearsal: Rehearsal) -> list[Shown]:
    metrics = rehearsal.crew.group.work.metrics
    zones = rehearsal.crew.launch.zones if len(rehearsal.crew.launch.zones) > 1 else []
    outside = [Shown(Metric.OUTSIDE, series=name) for name, _ in rehearsal.crew.outside]
    by_zone = [Shown(metric, zone=zone) for metric in metrics if metric.by_zone for zone in zones]
    return [*(Shown(metric) for metric in metrics), *outside, *by_zone]


def _shown(policy: Policy, work: Work) -> Shown | None:
    """The metric on which a policy is drawn. A share of seats kept free is one; other spare capacity has no strip of its own."""
    if isinstance(policy, MetricPolicy):
        return Shown(policy.metric, series=policy.series, zone=policy.zone)
    return Shown(Metric.FREE_SEATS_SHARE) if work.held and policy.level_at[0] == "share" else None


def metric_strip(rehearsal: Rehearsal, span: Span, shown: Shown) -> MetricStrip:
    metric = shown.metric
    unit, scale, top, step = metric.range
    series = metric_series(rehearsal, metric, shown.series) if shown.zone is None else zone_series(rehearsal, metric, shown.zone)
    if unit == "ms" and float(np.nanmax(series, initial=0.0)) > LONG:
        unit, scale, step = "s", 1.0, step / 1000
    cut = span.buckets(series * scale)
    thresholds = []
    for policy in rehearsal.crew.group.policies:
        if _shown(policy, rehearsal.crew.group.work) != shown or policy.fold in ("sum", "count"):
            continue
        field, level = policy.level_at
        thresholds.append(
            Threshold(
                path=f"policies.{policy.name}.{field}",
                policy=policy.name,
                tone="paused" if policy.paused else policy.tone,
                text=policy.mark(level),
                side=policy.edge,
                value=level,
                shown=level * scale,
                step=step / scale,
            )
        )
    there = cut.high[~np.isnan(cut.high)]
    highest = float(there.max()) if len(there) else 0.0
    label = shown.label
    if unit != "%" or metric == Metric.FAILED_SHARE:
        top = max([1.15 * highest, *(1.3 * t.shown for t in thresholds), 5 * step])
    summary = (
        f"{label} between {metric.say(float(np.nanmin(cut.low)) / scale)} and {metric.say(highest / scale)}."
        if len(there)
        else f"{label} has no data here."
    )
    return MetricStrip.model_construct(
        metric=shown.key,
        label=label,
        unit=unit,
        scale=scale,
        top=top,
        bend=BENT if unit in ("ms", "s") and len(there) and highest > DWARFED * float(np.median(there)) else 1.0,
        low=drawn(cut.low),
        high=drawn(cut.high),
        mean=drawn(cut.mean),
        thresholds=thresholds,
        summary=summary,
    )


def distributions(rehearsal: Rehearsal) -> list[Distribution]:
    """For each policy: where the samples of its metric lay over the whole rehearsal."""
    found = []
    for policy in rehearsal.crew.group.policies:
        if not isinstance(policy, MetricPolicy):
            continue
        _, scale, top, _ = policy.metric.range
        field, level = policy.level_at
        zone = 0 if policy.zone is None else 1 + rehearsal.crew.launch.zones.index(policy.zone)
        samples = rehearsal.result.state.sight.samples[zone, dial_row(policy, [name for name, _ in rehearsal.crew.outside])]
        values = samples[~np.isnan(samples)]
        top = max(top, 1.5 * level * scale)
        bins, _ = np.histogram(np.minimum(values * scale, top), bins=DISTRIBUTION_BINS, range=(0, top))
        side: Literal["below", "above"] = "below" if policy.edge == "below" else "above"
        beyond = float((values < level if side == "below" else values > level).mean()) if len(values) else 0.0
        found.append(
            Distribution(
                path=f"policies.{policy.name}.{field}",
                top=top,
                shares=[round(float(share), 5) for share in bins / max(1, len(values))],
                past=beyond,
                text=f"{side} it {say_share(beyond)} of the time" if len(values) else "no data in the last rehearsal",
            )
        )
    return found
