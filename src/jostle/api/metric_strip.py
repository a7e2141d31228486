"""A metric as a strip: its course, the thresholds that can be moved on it, and where its samples lay."""

from typing import Literal

import numpy as np
from pydantic import BaseModel

from jostle.api.editor import metric_range
from jostle.api.strips import Numbers, numbers
from jostle.core.engine.compile import METRIC_CODES
from jostle.core.journal.sentence import policy_tone
from jostle.core.plan.metric import Metric
from jostle.core.plan.policy import HoldPolicy
from jostle.core.plan.quantity import say_share
from jostle.core.rehearsal.rehearsal import Rehearsal
from jostle.core.rehearsal.strip import Span, metric_series

DISTRIBUTION_BINS = 40


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


class Distribution(BaseModel):
    """How much of the time a policy's metric spent where, in shown units, and past its threshold."""

    path: str
    top: float
    shares: list[float]
    past: float
    text: str


def metrics_of(rehearsal: Rehearsal) -> list[Metric]:
    policies = rehearsal.crew.group.policies
    return list(dict.fromkeys(policy.metric for policy in policies)) or [Metric.CPU]


def metric_strip(rehearsal: Rehearsal, span: Span, metric: Metric) -> MetricStrip:
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


def distributions(rehearsal: Rehearsal) -> list[Distribution]:
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
